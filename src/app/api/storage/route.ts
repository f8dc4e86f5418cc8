import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { freeBytes } from '@/server/storage/free-space';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.viewStorage, async ({ server }) => ({
  freeBytes: await freeBytes(server.folder.root),
  stores: await server.house.view(),
}));
