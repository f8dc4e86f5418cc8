import * as z from 'zod';
import { AppError } from '@/core/errors/app-error';
import { respond } from '@/server/http/respond';
import { traceOf } from '@/server/measure/trace';
import { getServer } from '@/server/server';

const query = z.object({
  sha256: z.string().regex(/^[0-9a-f]{64}$/),
  columns: z.coerce.number().int().min(1).max(8192),
});

/** A source's series, and its waveform cut to so many columns, as one bundle of arrays. */
export function GET(request: Request, context: { params: Promise<{ sha256: string }> }): Promise<Response> {
  return respond(async () => {
    const parsed = query.safeParse({
      ...(await context.params),
      columns: new URL(request.url).searchParams.get('columns'),
    });
    if (!parsed.success) throw new AppError('bad-request', { reason: 'a source and a number of columns are needed' });
    const bytes = await traceOf(getServer(), parsed.data.sha256, parsed.data.columns);
    return new Response(bytes as Uint8Array<ArrayBuffer>, {
      headers: { 'Content-Type': 'application/octet-stream', 'Cache-Control': 'private, max-age=3600' },
    });
  });
}
