'use client';

import { Many } from '@/features/common/many/many';
import type { Act } from '@/features/common/use-act';
import type { LineUpView } from '@/server/line-ups/line-ups';
import { deliverAllMessages as messages } from './messages';

/** Has every programme of a line-up meet its spec by itself, and be written. */
export function DeliverAll({
  lineUp: { id, kind, members },
  ...asked
}: {
  jobId: string;
  lineUp: LineUpView;
  specId: string;
  isBusy: boolean;
  act: Act;
}) {
  return (
    <Many
      {...asked}
      programmeIds={members.map(({ programmeId }) => programmeId)}
      isOfSpeech={kind === 'book'}
      bookId={kind === 'book' ? id : null}
    >
      <h2 className="text-sm font-bold">{messages.heading}</h2>
    </Many>
  );
}
