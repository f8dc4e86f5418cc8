import { AppError } from '../errors/app-error';
import type { GlanceLevels } from '../loudness/readings';
import { specLoudness } from '../spec/requirements/loudness';
import { specPeak } from '../spec/requirements/peak';
import type { Spec } from '../spec/spec';
import { LEAST_LU_PER_DB } from '../treatment/limited-solver';
import { roundGain } from '../treatment/steps/gain';
import { type JoinedPart, type JoinedReading, readJoined } from './joined';
import type { Balance } from './line-up';
import { balanceMessages as messages } from './messages';

/** A programme of a line-up at some gain: how it reads behind every step, and how that joins the others. */
export interface BalancedMember extends JoinedPart {
  title: string;
  readings: GlanceLevels;
  /** It has a limiter, its own or that of the whole. */
  isLimited: boolean;
}

/** What the levels of a line-up come to. */
export interface BalanceSolution {
  /** Of each programme, in order. */
  gainsDb: number[];
  /** What stops the gain before the target: titles of programmes whose peaks reach the ceiling. */
  stoppedBy: string[];
}

/** Limiters and gates bend loudness a little: so many corrections leave less than is shown. */
const CORRECTIONS = 12;
const NEAR_LU = 0.02;

/**
 * Finds the gains that bring a line-up to a spec's target: one for all, so that its balance stays, or one for each. No gain lifts a
 * peak over the ceiling, but that of a programme with a limiter, which goes on until more gain is little but limiting.
 *
 * @param setDb the gain that each programme has now; its balance is that without any
 * @param membersAt reads every programme at a gain of its own
 * @throws AppError `no-target`, `overlap-too-long`, or `nothing-to-measure` where there is no loudness
 */
export async function solveBalance(
  setDb: readonly number[],
  membersAt: (gainsDb: readonly number[]) => Promise<readonly BalancedMember[]>,
  balance: Balance,
  spec: Spec,
): Promise<BalanceSolution> {
  const target = targetOf(spec, balance);
  const isEach = balance === 'each-at-target';
  let gainsDb = isEach ? setDb : setDb.map(() => 0);
  let last: { steps: number[]; levels: readonly (number | null)[] } | undefined;
  let stoppedBy: string[] = [];
  /** Limiters that take all that more gain would bring. */
  const stalled = new Set<number>();
  for (let correction = 0; correction < CORRECTIONS; correction++) {
    const members = await membersAt(gainsDb);
    const levels = levelsOf(members, balance, spec);
    if (levels.every((level) => level === null)) {
      throw new AppError('nothing-to-measure', { reason: messages.nothingToMeasure });
    }
    const wanted = levels.map((level) => (level === null ? 0 : target - level));
    const allowed = members.map((member, i) => {
      if (stalled.has(i)) return 0;
      const most = mostStep(member, spec, last && gained(last, levels, i));
      if (member.isLimited && most < 0) stalled.add(i);
      return most;
    });
    const steps = isEach
      ? wanted.map((own, i) => Math.min(own, allowed[i] as number))
      : wanted.map(() => Math.min(...wanted, ...allowed));
    const isStopped = (i: number) =>
      (allowed[i] as number) <= (steps[i] as number) && (wanted[i] as number) > (steps[i] as number) + NEAR_LU;
    stoppedBy = members.flatMap(({ title }, i) => (isStopped(i) ? [title] : []));
    gainsDb = gainsDb.map((gainDb, i) => gainDb + (steps[i] as number));
    if (steps.every((step) => Math.abs(step) < NEAR_LU)) break;
    last = { steps, levels };
  }
  // Never up: a peak that meets the ceiling would stand above it.
  return { gainsDb: gainsDb.map((gainDb) => roundGain(gainDb, 'down')), stoppedBy };
}

/** Programmes read as one. Throws `overlap-too-long`. */
export function joined(members: readonly JoinedPart[]): JoinedReading {
  try {
    return readJoined(members);
  } catch (error) {
    if (error instanceof RangeError)
      throw new AppError('overlap-too-long', { reason: error.message }, { cause: error });
    throw error;
  }
}

/** Only each programme by itself can be held against another measure than integrated loudness. */
function targetOf({ name, loudness }: Spec, balance: Balance): number {
  const isKnown = loudness && (balance === 'each-at-target' || loudness.measure === 'integrated');
  if (!isKnown) throw new AppError('no-target', { spec: name, measure: messages.loudnessOfTheWhole });
  return loudness.target;
}

/** Of each programme, the loudness that is to meet the target: its own, that of the whole, or of the loudest. */
function levelsOf(members: readonly BalancedMember[], balance: Balance, spec: Spec): (number | null)[] {
  const { integratedLufs, tracks, loudest } = joined(members);
  switch (balance) {
    case 'each-at-target':
      return members.map(({ readings }) => specLoudness(readings, spec));
    case 'whole-at-target':
      return tracks.map(() => integratedLufs);
    case 'loudest-at-target':
      return tracks.map(() => (loudest === null ? null : (tracks[loudest]?.integratedLufs ?? null)));
  }
}

/** What the last step has brought a programme. */
function gained(
  last: { steps: number[]; levels: readonly (number | null)[] },
  levels: readonly (number | null)[],
  i: number,
) {
  const [before, now] = [last.levels[i], levels[i]];
  return { stepDb: last.steps[i] as number, lu: before == null || now == null ? 0 : now - before };
}

/**
 * How far the gain may still go: until peaks meet the ceiling; with a limiter, until more gain is little but limiting, which takes the
 * step back that has shown it.
 */
function mostStep(
  { isLimited, readings }: BalancedMember,
  spec: Spec,
  gain: { stepDb: number; lu: number } | undefined,
): number {
  if (readings.truePeakDbtp === null) return Number.POSITIVE_INFINITY;
  if (!isLimited) return spec.peak.ceiling - (specPeak(readings, spec) ?? 0);
  const isStalled = gain !== undefined && gain.stepDb > NEAR_LU && gain.lu < LEAST_LU_PER_DB * gain.stepDb;
  return isStalled ? -gain.stepDb : Number.POSITIVE_INFINITY;
}
