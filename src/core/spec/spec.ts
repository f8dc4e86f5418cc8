import * as z from 'zod';
import { REQUIREMENT_FIELDS } from './requirements/requirements';

export const specSchema = z.object({
  id: z
    .string()
    .min(1)
    .max(64)
    .regex(/^[a-z0-9-]+$/, 'An id is made of small letters, digits and hyphens'),
  /** Counted from 1; every change makes the next. */
  version: z.int().positive().default(1),
  name: z.string().trim().min(1).max(80),
  basis: z.object({
    kind: z.enum(['published', 'common-practice', 'own']),
    /** The document, or what the practice rests on. */
    document: z.string().max(400),
  }),
  ...REQUIREMENT_FIELDS,
  /** Demands that no file tells of, in words, for a person to check. */
  notJudged: z.array(z.string().max(400)).default([]),
});

export type Spec = z.infer<typeof specSchema>;

/** The document that a spec comes from, as screens and certificates name it: that a number was recalled is told in the docs. */
export function documentOf({ basis }: Pick<Spec, 'basis'>): string {
  return basis.document.replace(' (from memory)', '');
}
