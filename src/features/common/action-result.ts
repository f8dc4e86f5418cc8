import type { ErrorRecord } from '@/core/errors/app-error';

/**
 * What a server action answers: errors travel as records, since thrown ones lose their words on the way. `field` names what of
 * the input is wrong and says what is, where that is known.
 */
export type ActionResult<T = undefined> =
  | { ok: true; value: T }
  | { ok: false; error: ErrorRecord; field?: { name: string; problem: string } | undefined };
