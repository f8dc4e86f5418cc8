import * as z from 'zod';
import { AppError } from '@/core/errors/app-error';
import { gainDbSchema } from '@/core/treatment/gain';
import { limitSchema } from '@/core/treatment/steps/limit';
import { respond } from '@/server/http/respond';
import { limitedReadings, limiterAnswers } from '@/server/measure/limiting';
import { getServer } from '@/server/server';

const query = z.union([
  z.object({ spec: z.string().min(1).max(64) }),
  z.object({
    gainDb: z.coerce.number().pipe(gainDbSchema),
    ceilingDbtp: z.coerce.number().pipe(limitSchema.shape.ceilingDbtp),
  }),
]);

/** Of a programme: what a limiter could do for a spec, or what it makes of a gain. Nothing is written. */
export function GET(request: Request, context: { params: Promise<{ programmeId: string }> }): Promise<Response> {
  return respond(async () => {
    const { programmeId } = await context.params;
    const asked = query.safeParse(Object.fromEntries(new URL(request.url).searchParams));
    if (!asked.success) throw new AppError('bad-request', { reason: 'a spec, or a gain and a ceiling, are needed' });
    const server = getServer();
    return Response.json(
      'spec' in asked.data
        ? { answers: await limiterAnswers(server, programmeId, asked.data.spec) }
        : { limited: await limitedReadings(server, programmeId, asked.data) },
    );
  });
}
