import { discardAssembly } from '@/server/assemblies/download';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const DELETE = serve(OPERATIONS.discardAssembly, ({ server, params }) =>
  discardAssembly(server, params.assemblyId as string),
);
