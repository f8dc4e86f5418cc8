import * as z from 'zod';
import { AppError, toErrorRecord } from '@/core/errors/app-error';

/** Runs a server action's work and turns what it throws into a record that reaches the page. */
export async function answer<T>(work: () => Promise<T> | T) {
  try {
    return { ok: true as const, value: await work() };
  } catch (error) {
    const reason = error instanceof z.ZodError ? error.issues[0]?.message : undefined;
    const known = reason === undefined ? error : new AppError('bad-request', { reason }, { cause: error });
    return { ok: false as const, error: toErrorRecord(known) };
  }
}
