'use client';

import { Bar, CartesianGrid, ComposedChart, Line, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import type { Treatment } from '@/core/treatment/treatment';
import { formatGain, formatNumber } from '@/core/units/format';
import type { Colours } from '@/features/common/colours';
import { useDesk } from '../desk/desk-context';
import { mostLost } from './figures';
import { spectrumViewMessages as messages, viewFrameMessages } from './messages';
import { type Bands, useBands } from './use-bands';
import { readFrom, useSettingActions, ViewFrame, ViewNote } from './view-frame';

/** Bands that are named along the axis: every octave. */
const NAMED_HZ = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16_000];
/** What is shown below the strongest band. */
const SHOWN_DB = 72;
const STEP_DB = 12;

/** Such as "63 Hz" and "1.6 kHz". */
export function hertzText(hz: number): string {
  return hz < 1000 ? `${hz} Hz` : `${hz / 1000} kHz`;
}

/** Such as "63" and "1.6k", where there is room for no more. */
export function shortHertz(hz: number): string {
  return hz < 1000 ? `${hz}` : `${hz / 1000}k`;
}

/** What a treatment does to the bands, in a sentence. */
function answerOf(
  { before, after, bandsHz }: Pick<Bands, 'before' | 'after' | 'bandsHz'>,
  treatment: Treatment,
): string {
  const { limit, fadeIn, fadeOut, gainDb, outputGainDb } = treatment;
  const hasFades = Boolean(fadeIn || fadeOut);
  const allGainDb = gainDb + outputGainDb;
  if (!limit && !hasFades) {
    return allGainDb === 0 ? messages.unchanged : messages.allAlike(formatGain(allGainDb));
  }
  const taker = limit && hasFades ? 'both' : limit ? 'limiter' : 'fades';
  // Where nothing is limited, the gain is not in what was read.
  const lost = mostLost(before, after, limit ? allGainDb : 0);
  if (!lost) return messages.takesNothing(taker);
  return messages.takesMost(taker, hertzText(bandsHz[lost.band] as number), formatNumber(lost.lostDb));
}

/** The spectrum in thirds of an octave, of the span or the whole programme, before and after. */
export function SpectrumView({ colours }: { colours: Colours }) {
  const { treatment, span } = useDesk();
  const { bands, gainDb } = useBands();
  const settings = useSettingActions();
  if (typeof bands !== 'object') {
    return (
      <ViewFrame view="spectrum" answer="">
        <ViewNote>{bands === 'failed' ? viewFrameMessages.failed : viewFrameMessages.reading}</ViewNote>
      </ViewFrame>
    );
  }
  const { before, after, bandsHz, startFrames } = bands;
  if (startFrames.length === 0) {
    return (
      <ViewFrame view="spectrum" answer="">
        <ViewNote>{viewFrameMessages.tooShort}</ViewNote>
      </ViewFrame>
    );
  }
  const { limit } = treatment;
  const answer = answerOf(bands, treatment);
  const strongest = Math.max(...before, ...after.map((level) => level + gainDb));
  const topDb = Math.ceil(strongest / STEP_DB) * STEP_DB;
  const floorDb = topDb - SHOWN_DB;
  const rows = bandsHz.map((hz, i) => ({
    hz,
    before: [floorDb, Math.max(floorDb, before[i] as number)],
    after: Math.max(floorDb, (after[i] as number) + gainDb),
  }));
  return (
    <ViewFrame
      view="spectrum"
      remark={readFrom(bands, span !== null)}
      answer={answer}
      actions={[limit ? settings.setTheLimiter : settings.setTheGain]}
      hasKey
    >
      <div role="img" aria-label={answer} className="h-full">
        <ResponsiveContainer width="100%" height="100%">
          <ComposedChart data={rows} margin={{ top: 4, right: 4, bottom: 0, left: 0 }} barCategoryGap={1}>
            <CartesianGrid stroke={colours.hair} vertical={false} />
            <XAxis
              dataKey="hz"
              ticks={NAMED_HZ.filter((hz) => bandsHz.includes(hz))}
              interval="preserveStartEnd"
              height={16}
              tickLine={false}
              tick={{ fill: colours.mute, fontSize: 10 }}
              tickFormatter={shortHertz}
            />
            <YAxis
              width={30}
              interval={0}
              domain={[floorDb, topDb]}
              ticks={Array.from({ length: (topDb - floorDb) / STEP_DB + 1 }, (_, i) => floorDb + i * STEP_DB)}
              tickLine={false}
              tick={{ fill: colours.mute, fontSize: 10 }}
              tickFormatter={(db: number) => formatNumber(db, 0)}
            />
            <Bar dataKey="before" fill={colours['stock-2']} stroke={colours['stock-3']} isAnimationActive={false} />
            <Line
              dataKey="after"
              type="step"
              stroke={colours['slide-ink']}
              strokeWidth={2}
              dot={false}
              isAnimationActive={false}
            />
          </ComposedChart>
        </ResponsiveContainer>
      </div>
    </ViewFrame>
  );
}
