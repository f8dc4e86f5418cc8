import * as z from 'zod';
import { LOOK_AHEAD_MS } from '../../limiter/gain-curve';
import { formatLevel } from '../../units/format';
import { defineStep, type FlagReader, type StepFlag } from '../step';

const LINK_GROUPS = ['all', 'by-position'] as const;
const LFE_LINKS = ['linked', 'apart'] as const;
/** Shorter than a few nodes there is nothing to smooth; much longer, it is not for single peaks (common practice, no source). */
export const LOOK_AHEADS_MS = { least: 0.5, most: 10 } as const;
export const RELEASES_MS = { least: 10, most: 1000 } as const;

/** How a limiter is set. It has no inverse: what it takes is gone. */
export const limitSchema = z.object({
  ceilingDbtp: z.number().min(-12).max(0),
  /** How much channels go down together: 1 all as the one that needs most, 0 each by itself. */
  link: z.number().min(0).max(1).default(1),
  /** `by-position`: front, surround and height channels are linked among themselves. Absent: all are. */
  linkGroups: z.literal('by-position').exactOptional(),
  /** Whether low-frequency channels go down with the others: with those in front, where groups are linked. */
  lfe: z.enum(LFE_LINKS).default('linked'),
  /** How long before a peak it begins to go down. What stays over for long is always seen further ahead. */
  lookAheadMs: z.number().min(LOOK_AHEADS_MS.least).max(LOOK_AHEADS_MS.most).default(LOOK_AHEAD_MS),
  /** Time in which it lets go to 1/e; null is by programme. */
  releaseMs: z.number().min(RELEASES_MS.least).max(RELEASES_MS.most).nullable().default(null),
});
export type Limit = z.infer<typeof limitSchema>;

/** All channels go down together. */
export const LINKED = { link: 1, lfe: 'linked' } as const;
/** As long before peaks and behind them as was found best. */
const USUAL_TIMES = { lookAheadMs: LOOK_AHEAD_MS, releaseMs: null } as const;
/** A limiter that nobody has set up otherwise, but for its ceiling. */
export const USUAL_LIMITER = { ...LINKED, ...USUAL_TIMES } as const;

function describeLimit({ ceilingDbtp, link, lfe, linkGroups, lookAheadMs, releaseMs }: Limit): string {
  const parts = [
    `Limiter at ${formatLevel(ceilingDbtp, 'dBTP')}`,
    ...(lookAheadMs === LOOK_AHEAD_MS ? [] : [`look-ahead ${lookAheadMs} ms`]),
    releaseMs === null ? 'release by programme' : `release ${releaseMs} ms`,
    link === 1
      ? 'channels linked'
      : link === 0
        ? 'separate channels'
        : `channels linked by ${Math.round(100 * link)} %`,
    ...(linkGroups && link > 0 ? ['front, surround and height each by themselves'] : []),
    ...(lfe === 'apart' ? ['low-frequency channel separate'] : []),
  ];
  return parts.join(', ');
}

const LIMITER_FLAGS: readonly StepFlag[] = [
  { name: 'link', value: 'PERCENT', help: 'how much channels go down together (100 unless it is set)' },
  {
    name: 'link-groups',
    value: 'WHICH',
    help: 'which channels are linked: all, or front, surround and height by-position',
  },
  { name: 'lfe', value: 'LINK', help: 'low-frequency channels: linked with the others, or apart' },
  {
    name: 'look-ahead',
    value: 'MS',
    help: `how long before a peak the limiter begins (${LOOK_AHEADS_MS.least} to ${LOOK_AHEADS_MS.most}, default ${LOOK_AHEAD_MS})`,
  },
  {
    name: 'release',
    value: 'MS',
    help: `how soon it recovers (${RELEASES_MS.least} to ${RELEASES_MS.most}, by programme unless it is set)`,
  },
];

/** How a limiter is set but for its ceiling, by its flags. */
export function readLimiter(flags: FlagReader): Omit<Limit, 'ceilingDbtp'> {
  const isByPosition = flags.choice('link-groups', LINK_GROUPS, 'all') === 'by-position';
  return {
    link: (flags.number('link', 0, 100) ?? 100) / 100,
    ...(isByPosition ? { linkGroups: 'by-position' as const } : {}),
    lfe: flags.choice('lfe', LFE_LINKS, 'linked'),
    lookAheadMs: flags.number('look-ahead', LOOK_AHEADS_MS.least, LOOK_AHEADS_MS.most) ?? LOOK_AHEAD_MS,
    releaseMs: flags.number('release', RELEASES_MS.least, RELEASES_MS.most),
  };
}

/** Its ceiling is worked out with the gain: the flags only say how it is set up. */
export const limitStep = defineStep({
  title: 'Limiter',
  schema: limitSchema.nullable().default(null),
  stage: 'levels',
  describe: (limit) => limit && describeLimit(limit),
  flags: LIMITER_FLAGS,
});
