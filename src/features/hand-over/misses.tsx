'use client';

import { isMovedByGain } from '@/core/spec/assess';
import type { Act } from '@/features/common/use-act';
import type { RowView } from '@/server/deliveries/sheet';
import { Button } from '@/ui/button';
import { decideMisses, type RowFailure } from './actions';
import { missesMessages as messages } from './messages';
import { standingOf } from './standing';

/** Several files that miss their specs, decided at once: written anew where a gain may mend them, or discarded. */
export function Misses({
  rows,
  isBusy,
  act,
  onRefused,
}: {
  rows: readonly RowView[];
  isBusy: boolean;
  act: Act;
  onRefused: (failures: RowFailure[]) => void;
}) {
  const missed = rows.flatMap((row) =>
    standingOf(row) === 'missed' && row.delivery?.written
      ? [{ rowId: row.id, deliveryId: row.delivery.id, verdict: row.delivery.written.verdict }]
      : [],
  );
  if (missed.length < 2) return null;
  const mendable = missed.filter(({ verdict }) => isMovedByGain(verdict));
  const decide = (some: typeof missed, how: 'solve' | 'discard') => {
    const asked = some.map(({ rowId, deliveryId }) => ({ rowId, deliveryId }));
    return act(() => decideMisses(asked, how), onRefused);
  };
  return (
    <section
      aria-label={messages.heading(missed.length)}
      className="flex flex-wrap items-center gap-3 rounded-card border border-breach-line/40 bg-breach-1/70 px-4 py-2"
    >
      <p className="grow text-sm font-semibold">▲ {messages.heading(missed.length)}</p>
      {mendable.length > 0 ? (
        <Button kind="primary" disabled={isBusy} onClick={() => void decide(mendable, 'solve')}>
          {messages.solve(mendable.length)}
        </Button>
      ) : null}
      <Button disabled={isBusy} onClick={() => void decide(missed, 'discard')}>
        {messages.discard(missed.length)}
      </Button>
    </section>
  );
}
