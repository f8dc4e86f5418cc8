import { coverOf, setCover } from '@/server/deliveries/cover';
import { bytesOf, serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.getCover, async ({ server, params }) => {
  const { bytes, mediaType } = await coverOf(server, params.programmeId as string);
  return new Response(bytes, { headers: { 'Content-Type': mediaType, 'Cache-Control': 'no-store' } });
});

export const PUT = serve(OPERATIONS.setCover, ({ server, request, params }) =>
  setCover(server, params.programmeId as string, bytesOf(request)),
);

export const DELETE = serve(OPERATIONS.removeCover, ({ server, params }) =>
  setCover(server, params.programmeId as string, null),
);
