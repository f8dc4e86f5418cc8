import { viewFilm } from '@/server/assemblies/film';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.viewFilm, ({ server, params }) => viewFilm(server, params.lineUpId as string));
