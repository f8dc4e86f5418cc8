import { AppError } from '@/core/errors/app-error';
import type { ActionResult } from './action-result';

/** What is said where a server action never answered: nobody knows whether it was done. */
export function sayUnreached(cause: unknown): Extract<ActionResult<never>, { ok: false }> {
  return { ok: false, error: new AppError('server-unreached', {}, { cause }).toJSON() };
}
