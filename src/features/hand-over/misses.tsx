'use client';

import { useQuery } from '@tanstack/react-query';
import { isMovedByGain } from '@/core/spec/assess';
import { askMany } from '@/features/common/many/actions';
import { batchesQuery } from '@/features/common/many/queries';
import { TaskState } from '@/features/common/task-state';
import type { Act } from '@/features/common/use-act';
import type { BatchView } from '@/server/batches/batches';
import type { RowView } from '@/server/deliveries/sheet';
import { Button } from '@/ui/button';
import { discardMisses } from './actions';
import { missesMessages as messages } from './messages';
import { standingOf } from './standing';

/** Several files that miss their specs, decided at once: written anew where a gain may mend them, or discarded. */
export function Misses({
  jobId,
  rows,
  isBusy,
  act,
}: {
  jobId: string;
  rows: readonly RowView[];
  isBusy: boolean;
  act: Act;
}) {
  const missed = rows.flatMap((row) =>
    standingOf(row) === 'missed' && row.delivery?.written
      ? [
          {
            programmeId: row.programmeId,
            deliveryId: row.delivery.id,
            verdict: row.delivery.written.verdict,
          },
        ]
      : [],
  );
  const { data: batches = [] } = useQuery({
    ...batchesQuery(jobId),
    // Where there is nothing to decide, a task of the job fetches nothing here.
    enabled: ({ state }) => missed.length > 1 || (state.data?.some(isSolving) ?? false),
  });
  const shown = new Set(rows.map(({ programmeId }) => programmeId));
  const solving = batches.find(
    ({ wish, items }) => wish.kind === 'solve-again' && items.every(({ programmeId }) => shown.has(programmeId)),
  );
  const isRunning = solving !== undefined && isSolving(solving);
  if (missed.length < 2 && !isRunning) return null;
  const mendable = missed.filter(({ verdict }) => isMovedByGain(verdict));
  const solve = () =>
    act(() => askMany(jobId, [...new Set(mendable.map(({ programmeId }) => programmeId))], { kind: 'solve-again' }));
  const discard = () => act(() => discardMisses(missed.map(({ deliveryId }) => deliveryId)));
  const failed = solving?.items.filter(
    (item) => item.state === 'failed' && missed.some(({ programmeId }) => programmeId === item.programmeId),
  );
  return (
    <section
      aria-label={messages.heading(missed.length)}
      className="flex flex-wrap items-center gap-3 rounded-card border border-breach-line/40 bg-breach-1/70 px-4 py-2"
    >
      <p className="grow text-sm font-semibold">
        {missed.length > 0 ? '▲ ' : ''}
        {messages.heading(missed.length)}
      </p>
      {isRunning ? <TaskState task={solving.task} verb="recalculating" /> : null}
      {mendable.length > 0 && !isRunning ? (
        <Button kind="primary" disabled={isBusy} onClick={() => void solve()}>
          {messages.solve(mendable.length)}
        </Button>
      ) : null}
      {missed.length > 0 ? (
        <Button disabled={isBusy || isRunning} onClick={() => void discard()}>
          {messages.discard(missed.length)}
        </Button>
      ) : null}
      {failed?.map(({ programmeId, title, text }) => (
        <p key={programmeId} className="w-full text-sm">
          <span className="font-semibold">{title}</span> <span className="text-breach">▲ {text}</span>
        </p>
      ))}
    </section>
  );
}

function isSolving({ wish, task }: BatchView): boolean {
  return wish.kind === 'solve-again' && (task?.state === 'queued' || task?.state === 'running');
}
