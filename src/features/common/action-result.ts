import type { ErrorRecord } from '@/core/errors/app-error';

/** What a server action answers: errors travel as records, since thrown ones lose their words on the way. */
export type ActionResult<T = undefined> = { ok: true; value: T } | { ok: false; error: ErrorRecord };
