import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { definitionOf } from '@/server/take-in/renderings';

export const GET = serve(OPERATIONS.getDefinition, ({ server, params }) =>
  definitionOf(server, params.programmeId as string),
);
