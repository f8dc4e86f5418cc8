import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { importSpec, listSpecs } from '@/server/specs/specs';

export const dynamic = 'force-dynamic';

export const GET = serve(OPERATIONS.listSpecs, ({ server }) => listSpecs(server).map(({ spec }) => spec));

export const POST = serve(OPERATIONS.saveSpec, ({ server, body }) => importSpec(server, body));
