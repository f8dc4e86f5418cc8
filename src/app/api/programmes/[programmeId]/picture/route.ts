import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { pictureTimes } from '@/server/measure/film-picture';

export const GET = serve(OPERATIONS.pictureTimes, async ({ server, params }) => ({
  picture: await pictureTimes(server, params.programmeId as string),
}));
