import { AppError, type ErrorRecord } from '@/core/errors/app-error';
import type { ActionResult } from './action-result';

/**
 * What is said where a server action never answered: nobody knows whether it was done. Where it was refused before it was begun, that is said in
 * the words that came with it.
 */
export function sayUnreached(cause: unknown): Extract<ActionResult<never>, { ok: false }> {
  return { ok: false, error: refusalIn(cause) ?? new AppError('server-unreached', {}, { cause }).toJSON() };
}

function refusalIn(cause: unknown): ErrorRecord | undefined {
  if (!(cause instanceof Error)) return undefined;
  try {
    const { error } = JSON.parse(cause.message) as { error?: ErrorRecord };
    return typeof error?.happened === 'string' ? error : undefined;
  } catch {
    return undefined;
  }
}
