import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { viewStems } from '@/server/stems/null-test';

export const GET = serve(OPERATIONS.viewStems, ({ server, params }) => viewStems(server, params.lineUpId as string));
