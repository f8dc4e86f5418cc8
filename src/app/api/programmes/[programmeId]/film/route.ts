import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { filmLineUp } from '@/server/line-ups/films';

export const POST = serve(OPERATIONS.filmLineUp, ({ server, params }) => ({
  lineUpId: filmLineUp(server, params.programmeId as string),
}));
