import * as z from 'zod';
import type { ErrorRecord } from '@/core/errors/app-error';
import { ERROR_CODES, type ErrorCode } from '@/core/errors/catalogue';
import type { Fields } from './fields';

/** Where a source lies that was taken in without being copied, and what it was like then. */
export interface Reference {
  path: string;
  modifiedAtMs: number;
}

export const referenceSchema = z.object({ path: z.string(), modifiedAtMs: z.number() } satisfies Fields<Reference>);

/** How a simulated intake behaves, besides its rules. */
export interface IntakeConduct {
  /** It looks at what it has been sent so much later. */
  delaySeconds: number;
  /** Whatever comes is refused. */
  refusesAll: boolean;
  /** So many of the next connections break off in the middle; −1 for all of them. */
  dropsLeft: number;
}

export const conductSchema = z.object({
  delaySeconds: z.number(),
  refusesAll: z.boolean(),
  dropsLeft: z.number(),
} satisfies Fields<IntakeConduct>);

/** Why a task failed; a code that is not known any more is read as `unexpected`. */
export const errorSchema = z.object({
  code: z.string().transform((code): ErrorCode => (ERROR_CODES.has(code) ? (code as ErrorCode) : 'unexpected')),
  happened: z.string(),
  safe: z.string(),
  todo: z.string(),
} satisfies Fields<ErrorRecord>);
