import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { healthOf } from '@/server/operating/health';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.health, async ({ server }) => {
  const health = await healthOf(server);
  const status = health.status === 'failing' ? 503 : 200;
  return Response.json(health, { status, headers: { 'Cache-Control': 'no-store' } });
});
