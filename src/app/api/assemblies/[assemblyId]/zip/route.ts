import { zipAssembled } from '@/server/assemblies/download';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { zipResponse } from '@/server/http/zip-response';

export const GET = serve(OPERATIONS.assemblyZip, async ({ server, params }) =>
  zipResponse(await zipAssembled(server, params.assemblyId as string)),
);
