import type { SearchParams } from 'nuqs/server';
import { loadReceiversAddress } from '@/features/common/address';
import { ReceiversScreen } from '@/features/receivers/receivers-screen';
import { viewIntake } from '@/server/intake/intakes';
import { listReceivers } from '@/server/receivers/receivers';
import { sentTo } from '@/server/receivers/transfer-view';
import { transportForms } from '@/server/receivers/transports';
import { getServer } from '@/server/server';

export const dynamic = 'force-dynamic';

export default async function ReceiversPage({ searchParams }: { searchParams: Promise<SearchParams> }) {
  const { receiver } = await loadReceiversAddress(searchParams);
  const server = getServer();
  const receivers = listReceivers(server);
  const [first] = receivers;
  const current = receivers.find(({ id }) => id === receiver) ?? first;
  if (!current) return null;
  return (
    <ReceiversScreen
      key={current.id}
      receivers={receivers}
      transports={transportForms()}
      current={current}
      intake={viewIntake(server, current.id) ?? null}
      sent={sentTo(server, current.id)}
    />
  );
}
