import * as z from 'zod';
import { AppError, isAppError, toErrorRecord } from '@/core/errors/app-error';
import { checkSaved } from '../held';
import { log } from '../log';

/** Runs a server action's work and turns what it throws into a record that reaches the page. */
export async function answer<T>(work: () => Promise<T> | T) {
  try {
    const value = await work();
    checkSaved();
    return { ok: true as const, value };
  } catch (error) {
    const [issue] = error instanceof z.ZodError ? error.issues : [];
    if (!issue) {
      if (!isAppError(error)) log.error({ err: error }, 'an action could not be done');
      return { ok: false as const, error: toErrorRecord(error) };
    }
    const told = new AppError('bad-request', { reason: issue.message }, { cause: error });
    return {
      ok: false as const,
      error: toErrorRecord(told),
      field: { name: issue.path.join('.'), problem: issue.message },
    };
  }
}
