'use client';

import { useMemo } from 'react';
import { CartesianGrid, Line, LineChart, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { MARGIN_DB } from '@/core/limiter/gain-curve';
import { toSourceFrame } from '@/core/treatment/timeline';
import { formatNumber, formatTime } from '@/core/units/format';
import type { Colours } from '@/features/common/colours';
import { useDesk } from '../desk/desk-context';
import { columnSeconds, peakCurves, thinned } from './figures';
import { peaksViewMessages as messages, viewFrameMessages } from './messages';
import { useSettingActions, ViewFrame, ViewNote } from './view-frame';

/** More than the chart has pixels to tell apart. */
const MOST_POINTS = 400;

/** By how much peaks stand over loudness, along time. */
export function PeaksView({ colours }: { colours: Colours }) {
  const desk = useDesk();
  const { treated, treatment, timeline, store, audition, rateHz, written } = desk;
  const { prepared, curve, before, after } = treated;
  const { gainDb, limit, outputGainDb } = treatment;
  const heldDbtp = limit ? limit.ceilingDbtp - MARGIN_DB : Number.POSITIVE_INFINITY;
  const settings = useSettingActions();
  const curves = useMemo(
    () =>
      prepared &&
      curve &&
      peakCurves(
        prepared.peaks.peaks,
        prepared.meta.binsPerColumn,
        { values: prepared.weightedPower, gainDb: 0 },
        curve,
        { gainDb, heldDbtp, outputGainDb },
      ),
    [prepared, curve, gainDb, heldDbtp, outputGainDb],
  );
  if (!prepared || !curves?.least) {
    return (
      <ViewFrame view="peaks" answer="">
        <ViewNote>{curves ? messages.none : viewFrameMessages.reading}</ViewNote>
      </ViewFrame>
    );
  }
  const { least } = curves;
  const rows = thinned(
    { before: curves.before, after: curves.after },
    columnSeconds(prepared.meta.binsPerColumn),
    MOST_POINTS,
  );
  const sourceFrame = (seconds: number) => toSourceFrame(timeline, seconds * written.sampleRateHz);
  const timeOf = (seconds: number) => formatTime(Math.max(0, sourceFrame(seconds) / rateHz));
  const go = (seconds: number) => {
    const frame = Math.round(sourceFrame(Math.max(0, seconds - 3)));
    store.goTo(frame, 8 * rateHz);
    audition.seek(frame);
  };
  const plr = (value: number | null) => (value === null ? '◌' : formatNumber(value));
  const answer = `${messages.least(formatNumber(least.value), timeOf(least.endSeconds))} ${messages.plr(plr(after.peakToLoudnessLu), plr(before.peakToLoudnessLu))}`;
  return (
    <ViewFrame
      view="peaks"
      answer={answer}
      actions={[{ name: viewFrameMessages.goThere, run: () => go(least.endSeconds) }, settings.setTheLimiter]}
      hasKey
    >
      <div role="img" aria-label={answer} className="h-full">
        <ResponsiveContainer width="100%" height="100%">
          <LineChart
            data={rows}
            margin={{ top: 4, right: 8, bottom: 0, left: 0 }}
            onClick={({ activeLabel }) => activeLabel !== undefined && go(Number(activeLabel))}
          >
            <CartesianGrid stroke={colours.hair} vertical={false} />
            <XAxis
              dataKey="second"
              type="number"
              domain={[0, 'dataMax']}
              height={16}
              tickLine={false}
              tick={{ fill: colours.mute, fontSize: 10 }}
              tickFormatter={timeOf}
            />
            <YAxis
              width={30}
              interval={0}
              domain={[0, 'auto']}
              tickLine={false}
              tick={{ fill: colours.mute, fontSize: 10 }}
            />
            <Line dataKey="before" stroke={colours['stock-3']} dot={false} isAnimationActive={false} />
            <Line dataKey="after" stroke={colours['slide-ink']} strokeWidth={2} dot={false} isAnimationActive={false} />
          </LineChart>
        </ResponsiveContainer>
      </div>
    </ViewFrame>
  );
}
