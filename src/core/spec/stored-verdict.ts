import * as z from 'zod';
import type { Readings } from '../loudness/readings';
import { ASSESSMENT_STATES, type Assessment, lowerName, type Verdict } from './assessment';

const item = z.object({
  key: z.string(),
  name: z.string(),
  measured: z.number().nullable(),
  unit: z.string().nullable() as z.ZodType<Assessment['unit']>,
  reading: z.custom<keyof Readings>((own) => typeof own === 'string').optional(),
  found: z.string(),
  required: z.string(),
  state: z.enum(ASSESSMENT_STATES),
  inside: z.boolean(),
  deviation: z.number(),
  phrase: z.string(),
  why: z.string().nullable(),
});

const verdict = z.object({
  specId: z.string(),
  inside: z.boolean(),
  items: z.array(item),
  notJudged: z.array(z.string()),
});

/** Verdicts before engine 3: readings and checks apart, without words of their own. */
const oldVerdict = z.object({
  specId: z.string(),
  inside: z.boolean(),
  items: z.array(
    z.object({
      name: z.string(),
      measured: z.number().nullable(),
      unit: z.string() as z.ZodType<NonNullable<Assessment['unit']>>,
      required: z.string(),
      inside: z.boolean(),
      state: z.enum(['inside', 'over', 'under', 'not-measured']),
      deviation: z.number(),
    }),
  ),
  checks: z
    .array(z.object({ name: z.string(), found: z.string(), required: z.string(), inside: z.boolean() }))
    .optional(),
  notJudged: z.array(z.string()),
});

/** A verdict as it was stored, by whichever version. Throws a ZodError on anything else. */
export function parseStoredVerdict(stored: unknown): Verdict {
  const current = verdict.safeParse(stored);
  if (current.success) return current.data;
  const { specId, inside, items, checks = [], notJudged } = oldVerdict.parse(stored);
  const says = (name: string, required: string) => `${lowerName(name)} must be ${required}`;
  return {
    specId,
    inside,
    notJudged,
    items: [
      ...items.map((own) => ({
        ...own,
        key: '',
        phrase: says(own.name, own.required),
        state: own.state === 'not-measured' ? ('not-assessed' as const) : own.state,
        found: own.measured === null ? 'not measured' : `${own.measured} ${own.unit}`,
        why: own.state === 'not-measured' ? 'not measured' : null,
      })),
      ...checks.map((own) => ({
        ...own,
        key: '',
        measured: null,
        unit: null,
        deviation: 0,
        why: null,
        state: own.inside ? ('inside' as const) : ('missed' as const),
        phrase: says(own.name, own.required),
      })),
    ],
  };
}
