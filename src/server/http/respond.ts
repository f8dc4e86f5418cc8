import * as z from 'zod';
import { AppError, asAppError, toErrorRecord } from '@/core/errors/app-error';
import type { ErrorCode } from '@/core/errors/catalogue';
import { checkSaved } from '../held';
import { log } from '../log';

/** Codes whose status is neither "your input" (422) nor "our fault" (500). */
const STATUS: Partial<Record<ErrorCode, number>> = {
  'not-found': 404,
  'bad-request': 400,
  'not-signed': 401,
  'not-signed-in': 401,
  'wrong-passphrase': 401,
  'not-allowed': 403,
  'too-many-attempts': 429,
  'name-taken': 409,
  'last-engineer': 409,
  'out-of-step': 409,
  'not-measured': 409,
  'would-clip': 409,
  'line-off': 409,
  'input-elsewhere': 409,
  'already-recording': 409,
  'job-in-use': 409,
  'line-not-allowed': 403,
  'changed-elsewhere': 409,
  'delivery-altered': 409,
  'upload-interrupted': 400,
  'too-large': 413,
  'too-busy': 503,
  'data-folder-gone': 503,
  'not-writable': 507,
  'disk-full': 507,
  'no-room': 507,
  'outside-drop-folders': 403,
  unexpected: 500,
  'worker-died': 500,
};

/** What the server in front of this app calls a request, so that what is logged of it can be found together. */
export function requestId(request: Request | undefined): string | undefined {
  return request?.headers.get('x-request-id') ?? undefined;
}

/** Runs a route's work; an error becomes its record in JSON, with a fitting status. */
export async function respond(work: () => Promise<Response> | Response, request?: Request): Promise<Response> {
  try {
    const response = await work();
    if (request?.method !== 'GET' && request?.method !== 'HEAD') checkSaved();
    return response;
  } catch (error) {
    const known =
      error instanceof z.ZodError
        ? new AppError('bad-request', { reason: firstIssue(error) }, { cause: error })
        : error;
    const status = statusOf(known);
    if (status >= 500) log.error({ err: known, request: requestId(request) }, 'a request could not be answered');
    return Response.json({ error: toErrorRecord(known) }, { status });
  }
}

/** The status that an error is answered with. */
export function statusOf(error: unknown): number {
  return STATUS[asAppError(error).code] ?? 422;
}

function firstIssue({ issues: [issue] }: z.ZodError): string {
  return [issue?.path.join('.'), issue?.message].filter(Boolean).join(': ');
}
