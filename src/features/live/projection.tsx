'use client';

import { useState } from 'react';
import { projectTarget } from '@/core/live/projection';
import type { Spec } from '@/core/spec/spec';
import { formatLevel, formatTime } from '@/core/units/format';
import { parseNumber } from '@/core/units/parse';
import type { LineStore } from './line-store';
import { projectionMessages as messages } from './messages';
import { useLine } from './use-lines';

/** What the rest of a programme must average to end on target. */
export function Projection({
  store,
  spec,
  plannedSeconds,
  onPlanned,
}: {
  store: LineStore;
  spec: Spec;
  plannedSeconds: number | null;
  onPlanned: (seconds: number | null) => void;
}) {
  const { readings } = useLine(store);
  const { loudness } = spec;
  return (
    <section aria-label={messages.title} className="flex items-center gap-4">
      <div className="min-w-0 grow">
        {loudness?.measure !== 'integrated' ? (
          <p className="text-xs text-mute">{messages.noTarget}</p>
        ) : plannedSeconds === null ? (
          <p className="text-xs text-mute">{messages.noLength}</p>
        ) : (
          <Projected projection={projectTarget(readings, loudness.target, plannedSeconds)} target={loudness.target} />
        )}
      </div>
      {loudness?.measure === 'integrated' ? <Planned seconds={plannedSeconds} onPlanned={onPlanned} /> : null}
    </section>
  );
}

function Projected({ projection, target }: { projection: ReturnType<typeof projectTarget>; target: number }) {
  if (projection.kind === 'nothing-measured') return <p className="text-xs text-mute">{messages.nothingMeasured}</p>;
  if (projection.kind === 'over-time') return <p className="text-xs text-mute">{messages.overTime}</p>;
  const [words, level] =
    projection.kind === 'average'
      ? [messages.must, projection.averageLufs]
      : [messages.outOfReach, projection.nearestLufs];
  return (
    <>
      <p className="text-xs text-mute">{words(formatLevel(target, 'LUFS'), formatTime(projection.remainingSeconds))}</p>
      <p data-projection={projection.kind} className="font-mono text-xl font-bold">
        {formatLevel(level, 'LUFS')}
      </p>
    </>
  );
}

function Planned({ seconds, onPlanned }: { seconds: number | null; onPlanned: (seconds: number | null) => void }) {
  const shown = seconds === null ? '' : String(Number((seconds / 60).toFixed(2)));
  const [typed, setTyped] = useState<string>();
  const commit = () => {
    if (typed === undefined) return;
    const minutes = typed.trim() === '' ? null : parseNumber(typed);
    setTyped(undefined);
    if (minutes === undefined || (minutes !== null && !(minutes > 0 && minutes <= 1440))) return;
    onPlanned(minutes === null ? null : minutes * 60);
  };
  return (
    <label className="flex w-32 shrink-0 flex-col gap-0.5 text-xs text-mute">
      {messages.planned}
      <input
        inputMode="decimal"
        value={typed ?? shown}
        onChange={(event) => setTyped(event.target.value)}
        onBlur={commit}
        onKeyDown={(event) => {
          if (event.key === 'Enter') commit();
          if (event.key === 'Escape') setTyped(undefined);
        }}
        className="w-full rounded-control border border-stock-3 bg-sheet px-2 py-0.5 text-right font-mono text-sm text-ink"
      />
    </label>
  );
}
