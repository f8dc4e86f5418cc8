'use client';

import { Line, LineChart, ReferenceLine, ResponsiveContainer, XAxis, YAxis } from 'recharts';
import { type BandWidth, bandWidths, cancelledInMonoDb } from '@/core/inspection/stereo-width';
import type { BandPair } from '@/core/inspection/third-octaves';
import { toSourceFrame } from '@/core/treatment/timeline';
import { formatNumber, formatTime } from '@/core/units/format';
import type { Colours } from '@/features/common/colours';
import { classNames } from '@/ui/class-names';
import { useDesk } from '../desk/desk-context';
import { stereoViewMessages as messages, viewFrameMessages } from './messages';
import { hertzText, shortHertz } from './spectrum-view';
import { type Bands, useBands } from './use-bands';
import { readFrom, useSettingActions, ViewFrame, ViewNote } from './view-frame';

const BANDS_PER_OCTAVE = 3;
/** From here on the difference is clearly more than the sum. */
const MOSTLY_DIFFERENCE = 0.55;
/** The scale of the balance reaches so far to either side. */
const MOST_BALANCE_DB = 24;

/** How two channels stand to each other: over frequency as bars of the width of the sound, and over time as their correlation. */
export function StereoView({ colours }: { colours: Colours }) {
  const desk = useDesk();
  const { span, timeline, store, audition } = desk;
  const { bands } = useBands();
  const settings = useSettingActions();
  if (typeof bands !== 'object') {
    return (
      <ViewFrame view="stereo" answer="">
        <ViewNote>{bands === 'failed' ? viewFrameMessages.failed : viewFrameMessages.reading}</ViewNote>
      </ViewFrame>
    );
  }
  const { pair, startFrames } = bands;
  const lossDb = pair && cancelledInMonoDb(pair);
  if (!pair || lossDb === null || startFrames.length === 0) {
    const note = pair ? (startFrames.length === 0 ? viewFrameMessages.tooShort : messages.silent) : messages.notStereo;
    return (
      <ViewFrame view="stereo" answer="">
        <ViewNote>{note}</ViewNote>
      </ViewFrame>
    );
  }
  const least = leastCorrelation(bands);
  const go = (treatedFrame: number) => {
    const frame = Math.round(toSourceFrame(timeline, treatedFrame));
    store.goTo(frame, 8 * desk.rateHz);
    audition.seek(frame);
  };
  const answer = [
    messages.monoLoss(formatNumber(lossDb), formatNumber(100 * (1 - 10 ** (-lossDb / 10)), 0)),
    ...(least ? [messages.leastAt(formatNumber(least.correlation, 2), formatTime(secondsAt(desk, least.frame)))] : []),
  ].join(' ');
  return (
    <ViewFrame
      view="stereo"
      remark={readFrom(bands, span !== null)}
      answer={answer}
      actions={[
        ...(least ? [{ name: viewFrameMessages.goThere, run: () => go(least.frame) }] : []),
        { name: messages.mono, run: () => audition.setMono(true) },
        settings.setTheChannels,
      ]}
    >
      <div className="flex h-full flex-col gap-1">
        <Widths pair={pair} bandsHz={bands.bandsHz} />
        <Correlation bands={bands} colours={colours} secondsOf={(frame) => secondsAt(desk, frame)} onFrame={go} />
      </div>
    </ViewFrame>
  );
}

/** A treated frame, in seconds of the source. */
function secondsAt({ timeline, rateHz }: ReturnType<typeof useDesk>, treatedFrame: number): number {
  return Math.max(0, toSourceFrame(timeline, treatedFrame) / rateHz);
}

function leastCorrelation({ correlation, startFrames, blockFrames }: Bands) {
  let least = -1;
  correlation.forEach((value, i) => {
    if (!Number.isNaN(value) && (least < 0 || value < (correlation[least] as number))) least = i;
  });
  if (least < 0) return null;
  return { correlation: correlation[least] as number, frame: (startFrames[least] as number) + blockFrames / 2 };
}

/**
 * Each octave as a bar between the loudspeakers: as wide as the angle whose sine squared is the share of its power in the difference of the
 * channels (mono a point, nothing in common half of the way), where the balance puts it, and as strong as it counts in the whole. Hatched
 * where clearly more is in the difference than in the sum.
 */
function Widths({ pair, bandsHz }: { pair: BandPair; bandsHz: readonly number[] }) {
  const widths = bandWidths(pair, BANDS_PER_OCTAVE);
  return (
    <div className="flex min-h-0 grow flex-col">
      <ol className="relative flex min-h-0 grow flex-col-reverse gap-px rounded-sm bg-stock-1/50 py-0.5">
        <i aria-hidden className="absolute inset-y-0 left-[calc(50%+1.25rem)] w-px bg-stock-3" />
        {widths.map((width, octave) => {
          const hz = bandsHz[octave * BANDS_PER_OCTAVE + 1] ?? bandsHz[octave * BANDS_PER_OCTAVE];
          if (hz === undefined) return null;
          return (
            <li key={hz} className="flex min-h-0 grow items-center">
              <span aria-hidden className="w-10 shrink-0 pr-1.5 text-right font-mono text-[9px] leading-none text-mute">
                {octave % 2 === 0 ? shortHertz(hz) : ''}
              </span>
              <span className="relative h-full min-h-1 grow overflow-hidden">
                {width ? <WidthBar width={width} hz={hz} /> : null}
              </span>
            </li>
          );
        })}
      </ol>
      <p aria-hidden className="flex justify-between pl-10 font-mono text-[9px] leading-[11px] text-mute">
        <span>{messages.left}</span>
        <span>{messages.right}</span>
      </p>
    </div>
  );
}

function WidthBar({ width, hz }: { width: BandWidth; hz: number }) {
  const { sideShare, balanceDb, powerShare } = width;
  const centre = 50 + (50 * balanceDb) / MOST_BALANCE_DB;
  const half = Math.max(0.7, (100 * Math.asin(Math.sqrt(sideShare))) / Math.PI);
  const isInverted = sideShare > MOSTLY_DIFFERENCE;
  const text = messages.widthOf(hertzText(hz), formatNumber(100 * sideShare, 0));
  return (
    <span
      role="img"
      aria-label={isInverted ? `${text}, ${messages.inverted}` : text}
      title={isInverted ? `${text}, ${messages.inverted}` : text}
      className={classNames(
        'absolute inset-y-0 rounded-[2px]',
        isInverted
          ? 'border border-breach-line bg-[repeating-linear-gradient(45deg,var(--color-breach-line)_0_2px,transparent_2px_5px)]'
          : 'bg-slide-ink',
      )}
      style={{
        left: `${centre - half}%`,
        width: `${2 * half}%`,
        opacity: isInverted ? 1 : 0.65 + 0.35 * Math.min(1, Math.sqrt(3 * powerShare)),
      }}
    />
  );
}

function Correlation({
  bands: { correlation, startFrames, blockFrames },
  colours,
  secondsOf,
  onFrame,
}: {
  bands: Bands;
  colours: Colours;
  secondsOf: (treatedFrame: number) => number;
  onFrame: (treatedFrame: number) => void;
}) {
  const frames = Array.from(startFrames, (startFrame) => startFrame + blockFrames / 2);
  const rows = frames.map((frame, i) => {
    const value = correlation[i] as number;
    return { frame, value: Number.isNaN(value) ? null : value };
  });
  return (
    <div role="img" aria-label={messages.correlation} className="h-[30%] min-h-11 shrink-0">
      <ResponsiveContainer width="100%" height="100%">
        <LineChart
          data={rows}
          margin={{ top: 2, right: 4, bottom: 0, left: 0 }}
          onClick={({ activeLabel }) => activeLabel !== undefined && onFrame(Number(activeLabel))}
        >
          <XAxis
            dataKey="frame"
            type="number"
            domain={['dataMin', 'dataMax']}
            height={16}
            minTickGap={20}
            tickLine={false}
            tick={{ fill: colours.mute, fontSize: 10 }}
            tickFormatter={(frame: number) => formatTime(secondsOf(frame))}
          />
          <YAxis
            width={40}
            domain={[-1, 1]}
            ticks={[-1, 1]}
            interval={0}
            tickLine={false}
            tick={{ fill: colours.mute, fontSize: 10 }}
            tickFormatter={(value: number) => formatNumber(value, 0)}
          />
          <ReferenceLine y={0} stroke={colours['breach-line']} strokeDasharray="2 3" />
          <Line dataKey="value" stroke={colours['slide-ink']} dot={false} isAnimationActive={false} />
        </LineChart>
      </ResponsiveContainer>
    </div>
  );
}
