import { type AppError, isAppError, toErrorRecord } from '@/core/errors/app-error';
import type { ErrorCode } from '@/core/errors/catalogue';

/** Codes whose status is neither "your input" (422) nor "our fault" (500). */
const STATUS: Partial<Record<ErrorCode, number>> = {
  'not-found': 404,
  'bad-request': 400,
  'not-measured': 409,
  'would-clip': 409,
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
    const record = toErrorRecord(error);
    return Response.json({ error: record }, { status: statusOf(error) });
  }
}

/** The status that an error is answered with. */
export function statusOf(error: unknown): number {
  return isAppError(error) ? (STATUS[(error as AppError).code] ?? 422) : 500;
}
