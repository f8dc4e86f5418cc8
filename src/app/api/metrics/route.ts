import { MEDIA, serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const dynamic = 'force-dynamic';

export const GET = serve(
  OPERATIONS.metrics,
  async ({ server }) =>
    new Response(await server.metrics.text(), {
      headers: { 'Content-Type': MEDIA.metrics, 'Cache-Control': 'no-store' },
    }),
);
