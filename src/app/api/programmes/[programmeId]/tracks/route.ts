import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { takeInTracks } from '@/server/take-in/tracks';

export const POST = serve(OPERATIONS.takeInTracks, ({ server, params, body }) =>
  takeInTracks(server, params.programmeId as string, body.programmes),
);
