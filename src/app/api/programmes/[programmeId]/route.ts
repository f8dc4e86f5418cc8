import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { viewProgramme } from '@/server/jobs/programme-view';

export const GET = serve(OPERATIONS.viewProgramme, ({ server, params }) =>
  viewProgramme(server, params.programmeId as string),
);
