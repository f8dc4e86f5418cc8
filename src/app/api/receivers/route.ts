import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { addReceiver, listReceivers } from '@/server/receivers/receivers';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.listReceivers, ({ server }) => listReceivers(server));

export const POST = serve(OPERATIONS.addReceiver, ({ server, body }) => addReceiver(server, body));
