import { AppError } from '@/core/errors/app-error';
import { serve } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { listSpecs } from '@/server/specs/specs';

/** To be kept, or brought in elsewhere. */
export const GET = serve(OPERATIONS.viewSpec, ({ server, params, query }) => {
  const known = listSpecs(server).find(({ spec }) => spec.id === params.specId);
  const spec = known?.versions.find((own) => own.version === (query.version ?? known.spec.version));
  if (!spec) throw new AppError('not-found', { what: 'spec' });
  return new Response(`${JSON.stringify(spec, null, 2)}\n`, {
    headers: {
      'Content-Type': 'application/json; charset=utf-8',
      'Content-Disposition': `attachment; filename="${spec.id}_v${spec.version}.json"`,
    },
  });
});
