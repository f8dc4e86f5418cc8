import { previewAssembly } from '@/server/assemblies/assemblies';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.previewAssembly, ({ server, params, query }) =>
  previewAssembly(server, params.lineUpId as string, query),
);
