import { readFile } from 'node:fs/promises';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { pictureSegment } from '@/server/measure/film-picture';

export const GET = serve(OPERATIONS.pictureSegment, async ({ server, request, params, query }) => {
  const path = await pictureSegment(server, params.programmeId as string, query.number, request.signal);
  return new Response(await readFile(path), {
    headers: { 'Content-Type': 'video/webm', 'Cache-Control': 'private, max-age=3600' },
  });
});
