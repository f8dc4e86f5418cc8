import type { RowView } from '@/server/deliveries/sheet';

/** How far a row is. */
export type Standing = 'planned' | 'under-way' | 'ended' | 'verified' | 'accepted' | 'missed' | 'stale';

export function standingOf({ delivery, isStale }: RowView): Standing {
  if (!delivery) return 'planned';
  const { written, task, acceptedReason } = delivery;
  if (!written) return task?.state === 'failed' || task?.state === 'cancelled' ? 'ended' : 'under-way';
  if (isStale) return 'stale';
  if (written.verdict.inside) return 'verified';
  return acceptedReason === null ? 'missed' : 'accepted';
}

export function isUnderWay(row: RowView): boolean {
  return standingOf(row) === 'under-way';
}
