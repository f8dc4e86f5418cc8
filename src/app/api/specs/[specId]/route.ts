import * as z from 'zod';
import { AppError } from '@/core/errors/app-error';
import { parseQuery } from '@/server/http/query';
import { respond } from '@/server/http/respond';
import { getServer } from '@/server/server';
import { listSpecs } from '@/server/specs/specs';

/** A spec as JSON, to be kept or brought in elsewhere: as it is now, or one of its versions. */
export function GET(request: Request, context: { params: Promise<{ specId: string }> }): Promise<Response> {
  return respond(async () => {
    const { specId } = await context.params;
    const { version } = parseQuery(request, z.object({ version: z.coerce.number().int().optional() }), 'a version is');
    const known = listSpecs(getServer()).find(({ spec }) => spec.id === specId);
    const spec = known?.versions.find((own) => own.version === (version ?? known.spec.version));
    if (!spec) throw new AppError('not-found', { what: 'spec' });
    return new Response(`${JSON.stringify(spec, null, 2)}\n`, {
      headers: {
        'Content-Type': 'application/json; charset=utf-8',
        'Content-Disposition': `attachment; filename="${spec.id}_v${spec.version}.json"`,
      },
    });
  });
}
