import * as z from 'zod';
import { formatLevel } from '../../units/format';

export const LFE_LINKS = ['linked', 'apart'] as const;

/** How a limiter is set. It has no inverse: what it takes is gone. */
export const limitSchema = z.object({
  ceilingDbtp: z.number().min(-12).max(0),
  /** How much channels go down together: 1 all as the one that needs most, 0 each by itself. */
  link: z.number().min(0).max(1).default(1),
  /** Whether low-frequency channels go down with the others. */
  lfe: z.enum(LFE_LINKS).default('linked'),
  /** Time in which it lets go to 1/e; null is by programme. */
  releaseMs: z.number().min(10).max(1000).nullable().default(null),
});
export type Limit = z.infer<typeof limitSchema>;

/** All channels go down together. */
export const LINKED = { link: 1, lfe: 'linked' } as const;

export function describeLimit({ ceilingDbtp, link, lfe, releaseMs }: Limit): string {
  const parts = [
    `Limiter at ${formatLevel(ceilingDbtp, 'dBTP')}`,
    releaseMs === null ? 'release by programme' : `release ${releaseMs} ms`,
    link === 1 ? 'channels linked' : link === 0 ? 'channels apart' : `channels linked by ${Math.round(100 * link)} %`,
    ...(lfe === 'apart' ? ['low-frequency channel apart'] : []),
  ];
  return parts.join(', ');
}
