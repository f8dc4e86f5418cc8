import * as z from 'zod';
import { AppError, isAppError, toErrorRecord } from '@/core/errors/app-error';
import type { ErrorCode } from '@/core/errors/catalogue';
import { log } from '../log';

/** Codes whose status is neither "your input" (422) nor "our fault" (500). */
const STATUS: Partial<Record<ErrorCode, number>> = {
  'not-found': 404,
  'bad-request': 400,
  'not-signed': 401,
  'out-of-step': 409,
  'not-measured': 409,
  'would-clip': 409,
  'line-off': 409,
  'input-elsewhere': 409,
  'already-recording': 409,
  'line-not-allowed': 403,
  'changed-elsewhere': 409,
  'delivery-altered': 409,
  'upload-interrupted': 400,
  'not-writable': 507,
  unexpected: 500,
  'worker-died': 500,
};

/** Runs a route's work; an error becomes its record in JSON, with a fitting status. */
export async function respond(work: () => Promise<Response> | Response): Promise<Response> {
  try {
    return await work();
  } catch (error) {
    const known =
      error instanceof z.ZodError
        ? new AppError('bad-request', { reason: firstIssue(error) }, { cause: error })
        : error;
    const status = statusOf(known);
    if (status >= 500) log.error({ err: known }, 'a request could not be answered');
    return Response.json({ error: toErrorRecord(known) }, { status });
  }
}

/** The status that an error is answered with. */
export function statusOf(error: unknown): number {
  return isAppError(error) ? (STATUS[(error as AppError).code] ?? 422) : 500;
}

function firstIssue({ issues: [issue] }: z.ZodError): string {
  return [issue?.path.join('.'), issue?.message].filter(Boolean).join(': ');
}
