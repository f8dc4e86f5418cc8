import { downloadAssembled } from '@/server/assemblies/download';
import { fileResponse } from '@/server/http/file';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.assemblyFile, async ({ server, request, params, query }) =>
  fileResponse(await downloadAssembled(server, params.assemblyId as string, query.part), request),
);
