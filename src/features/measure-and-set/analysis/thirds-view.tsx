'use client';

import { useMemo } from 'react';
import { toSourceFrame } from '@/core/treatment/timeline';
import { formatLevel, formatNumber, formatTime } from '@/core/units/format';
import { useDesk } from '../desk/desk-context';
import { spreadLu, type Third, thirdsOf } from './figures';
import { thirdsViewMessages as messages, viewFrameMessages } from './messages';
import { useSettingActions, ViewFrame, ViewNote } from './view-frame';

/** So much is shown around what there is, in LU. */
const AROUND_LU = 3;

/** Whether a programme holds its loudness from its beginning to its end; each third can be made the span. */
export function ThirdsView() {
  const { treated, timeline, written, rateHz, spec, store } = useDesk();
  const { prepared, curve } = treated;
  const settings = useSettingActions();
  const thirds = useMemo(
    () =>
      prepared &&
      curve &&
      thirdsOf({ values: prepared.weightedPower, gainDb: 0 }, curve, prepared.meta.frames, written.sampleRateHz),
    [prepared, curve, written.sampleRateHz],
  );
  if (!thirds) {
    return (
      <ViewFrame view="thirds" answer="">
        <ViewNote>{viewFrameMessages.reading}</ViewNote>
      </ViewFrame>
    );
  }
  const spread = spreadLu(thirds);
  const window = spec.loudness?.measure === 'integrated' ? spec.loudness : null;
  const levels = [
    ...thirds.flatMap(({ beforeLufs, afterLufs }) => [beforeLufs, afterLufs]),
    ...(window ? [window.target - window.toleranceBelow, window.target + window.toleranceAbove] : []),
  ].filter((level) => level !== null);
  const from = Math.min(...levels) - AROUND_LU;
  const to = Math.max(...levels) + AROUND_LU;
  const percent = (lufs: number) => (100 * (lufs - from)) / (to - from);
  const sourceFrame = (frame: number) => Math.round(toSourceFrame(timeline, frame));
  return (
    <ViewFrame
      view="thirds"
      answer={`${spread === null ? messages.silent : messages.spread(formatNumber(spread))} ${messages.choose}`}
      actions={[settings.setTheGain]}
      hasKey
    >
      <ol className="flex h-full flex-col justify-evenly gap-1 py-1">
        {thirds.map((third, i) => (
          <li key={third.startFrame} className="min-h-0">
            <ThirdRow
              third={third}
              name={messages.names[i] as string}
              times={[third.startFrame, third.endFrame].map((frame) =>
                formatTime(Math.max(0, sourceFrame(frame) / rateHz)),
              )}
              window={
                window && [
                  percent(window.target - window.toleranceBelow),
                  percent(window.target + window.toleranceAbove),
                ]
              }
              percent={percent}
              onChoose={() => {
                const span = { startFrame: sourceFrame(third.startFrame), endFrame: sourceFrame(third.endFrame) };
                store.setSpan(span);
              }}
            />
          </li>
        ))}
      </ol>
    </ViewFrame>
  );
}

function ThirdRow({
  third: { beforeLufs, afterLufs },
  name,
  times: [start = '', end = ''],
  window,
  percent,
  onChoose,
}: {
  third: Third;
  name: string;
  times: readonly string[];
  /** Of the target, in percent of the row. */
  window: readonly number[] | null;
  percent: (lufs: number) => number;
  onChoose: () => void;
}) {
  const [windowFrom = 0, windowTo = 0] = window ?? [];
  return (
    <button
      type="button"
      onClick={onChoose}
      aria-label={`${messages.third(name, start, end)}: ${formatLevel(afterLufs, 'LUFS')}`}
      className="flex w-full cursor-pointer items-center gap-2 rounded-sm text-left hover:bg-stock-1"
    >
      <span className="w-16 shrink-0 text-xs leading-4">
        {name}
        <span className="block font-mono text-[9px] leading-[11px] text-mute">{start}</span>
      </span>
      <span className="relative h-6 min-w-0 grow bg-stock-1/50">
        {window ? (
          <i
            className="absolute inset-y-0 border-x border-stock-3 bg-stock-2"
            style={{ left: `${windowFrom}%`, width: `${windowTo - windowFrom}%` }}
          />
        ) : null}
        {beforeLufs === null ? null : (
          <i className="absolute bottom-0.5 left-0 h-1.5 bg-stock-3" style={{ width: `${percent(beforeLufs)}%` }} />
        )}
        {afterLufs === null ? null : (
          <i className="absolute top-1 left-0 h-2.5 bg-slide-ink" style={{ width: `${percent(afterLufs)}%` }} />
        )}
      </span>
      <span className="w-20 shrink-0 text-right font-mono text-xs">{formatLevel(afterLufs, 'LUFS')}</span>
    </button>
  );
}
