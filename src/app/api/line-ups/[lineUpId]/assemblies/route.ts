import { listAssemblies, orderAssembly } from '@/server/assemblies/assemblies';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.listAssemblies, ({ server, params }) => ({
  assemblies: listAssemblies(server, params.lineUpId as string),
}));

export const POST = serve(OPERATIONS.createAssembly, ({ server, params, body }) => ({
  assemblyId: orderAssembly(server, params.lineUpId as string, body),
}));
