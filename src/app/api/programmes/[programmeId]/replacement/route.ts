import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { previewReplacement, replaceSource } from '@/server/jobs/replace';

export const GET = serve(OPERATIONS.previewReplacement, ({ server, params, query }) =>
  previewReplacement(server, params.programmeId as string, query.by),
);

export const POST = serve(OPERATIONS.replaceSource, ({ server, params, body }) =>
  replaceSource(server, params.programmeId as string, body.by),
);
