import { previewBook } from '@/server/assemblies/book';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';

export const GET = serve(OPERATIONS.previewBook, ({ server, params, query }) =>
  previewBook(server, params.lineUpId as string, query.spec),
);
