import { AppError, isAppError } from '@/core/errors/app-error';
import { BALANCES, type Balance } from '@/core/lineup/line-up';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { LEAST_LU_PER_DB } from '@/core/treatment/limited-solver';
import { roundGain } from '@/core/treatment/steps/gain';
import type { Level } from '@/core/units/decibel';
import type { ServerContext } from '../context';
import { specOrUsual } from '../specs/specs';
import { changeTreatment } from '../treatments/treatments';
import { joined, type TreatedMember, treatedMembers } from './line-up-reading';
import { type LineUpView, lineUpOf } from './line-ups';
import { balanceMessages as messages } from './messages';

/** What the levels of a line-up come to. */
export interface BalancePlan {
  gains: { programmeId: string; gainDb: number; wasDb: number }[];
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
 * @throws AppError `not-found`, `not-measured`, `no-target`, `overlap-too-long`, or `nothing-to-measure` where there is no loudness
 */
async function planBalance(
  server: ServerContext,
  lineUpId: string,
  balance: Balance,
  specId?: string,
): Promise<BalancePlan> {
  const lineUp = lineUpOf(server, lineUpId);
  const spec = specOrUsual(server, specId ?? lineUp.specId ?? undefined);
  const target = targetOf(spec, balance);
  const before = await membersWith(server, lineUp, null);
  const isEach = balance === 'each-at-target';
  const gains = new Map(before.map(({ programmeId, treatment }) => [programmeId, isEach ? treatment.gainDb : 0]));
  let last: { steps: number[]; levels: readonly (number | null)[] } | undefined;
  let stoppedBy: string[] = [];
  /** Limiters that take all that more gain would bring. */
  const stalled = new Set<number>();
  for (let correction = 0; correction < CORRECTIONS; correction++) {
    const members = await membersWith(server, lineUp, gains);
    const levels = levelsOf(members, balance, spec);
    if (levels.every((level) => level === null)) {
      throw new AppError('nothing-to-measure', { reason: messages.nothingToMeasure });
    }
    const wanted = levels.map((level) => (level === null ? 0 : target - level));
    const allowed = members.map((member, i) => {
      if (stalled.has(i)) return 0;
      const most = mostStep(member, spec, last && gained(last, levels, i));
      if (member.treatment.limit && most < 0) stalled.add(i);
      return most;
    });
    const steps = isEach
      ? wanted.map((own, i) => Math.min(own, allowed[i] as number))
      : wanted.map(() => Math.min(...wanted, ...allowed));
    const isStopped = (i: number) =>
      (allowed[i] as number) <= (steps[i] as number) && (wanted[i] as number) > (steps[i] as number) + NEAR_LU;
    stoppedBy = members.flatMap(({ title }, i) => (isStopped(i) ? [title] : []));
    members.forEach(({ programmeId }, i) => {
      gains.set(programmeId, (gains.get(programmeId) ?? 0) + (steps[i] as number));
    });
    if (steps.every((step) => Math.abs(step) < NEAR_LU)) break;
    last = { steps, levels };
  }
  return {
    gains: before.map(({ programmeId, treatment }) => ({
      programmeId,
      // Never up: a peak that meets the ceiling would stand above it.
      gainDb: roundGain(gains.get(programmeId) ?? 0, 'down'),
      wasDb: treatment.gainDb,
    })),
    stoppedBy,
  };
}

/** What setting the levels in one way would come to, before it is done. */
export interface BalanceForecast {
  balance: Balance;
  /** Null where the spec has no target for it. */
  outcome: {
    /** Of the whole, and of its softest and loudest programme. */
    integratedLufs: Level;
    softestLufs: Level;
    loudestLufs: Level;
    truePeakDbtp: Level;
    /** The most that any limiter takes; null where there is none. */
    reductionDb: number | null;
    stoppedBy: string[];
  } | null;
}

/**
 * Says of each way of setting the levels what it would come to, limiters included. Nothing is changed.
 *
 * @throws AppError as setting them, but for `no-target`
 */
export async function forecastBalances(
  server: ServerContext,
  lineUpId: string,
  specId?: string,
): Promise<BalanceForecast[]> {
  const lineUp = lineUpOf(server, lineUpId);
  const forecasts: BalanceForecast[] = [];
  for (const balance of BALANCES) {
    const plan = await planBalance(server, lineUpId, balance, specId).catch((error) => {
      if (isAppError(error, 'no-target')) return null;
      throw error;
    });
    forecasts.push({ balance, outcome: plan && (await outcomeOf(server, lineUp, plan)) });
  }
  return forecasts;
}

async function outcomeOf(server: ServerContext, lineUp: LineUpView, { gains, stoppedBy }: BalancePlan) {
  const members = await membersWith(
    server,
    lineUp,
    new Map(gains.map(({ programmeId, gainDb }) => [programmeId, gainDb])),
  );
  const { integratedLufs, truePeakDbtp, tracks } = joined(members);
  const levels = tracks.flatMap((track) => track.integratedLufs ?? []);
  const reductions = members.flatMap(({ reductionDb }) => reductionDb ?? []);
  return {
    integratedLufs,
    softestLufs: levels.length > 0 ? Math.min(...levels) : null,
    loudestLufs: levels.length > 0 ? Math.max(...levels) : null,
    truePeakDbtp,
    reductionDb: reductions.length > 0 ? Math.max(...reductions) : null,
    stoppedBy,
  };
}

/** Finds the gains, and sets them: an edit of each programme, to be undone there. */
export async function setBalance(
  server: ServerContext,
  lineUpId: string,
  balance: Balance,
  specId?: string,
): Promise<BalancePlan> {
  const plan = await planBalance(server, lineUpId, balance, specId);
  for (const { programmeId, gainDb } of plan.gains) changeTreatment(server, programmeId, { gainDb });
  return plan;
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
  { treatment, readings }: TreatedMember,
  spec: Spec,
  gain: { stepDb: number; lu: number } | undefined,
): number {
  if (readings.truePeakDbtp === null) return Number.POSITIVE_INFINITY;
  if (!treatment.limit) return spec.peak.ceiling - (specPeak(readings, spec) ?? 0);
  const isStalled = gain !== undefined && gain.stepDb > NEAR_LU && gain.lu < LEAST_LU_PER_DB * gain.stepDb;
  return isStalled ? -gain.stepDb : Number.POSITIVE_INFINITY;
}

/** Only each programme by itself can be held against another measure than integrated loudness. */
function targetOf({ name, loudness }: Spec, balance: Balance): number {
  const isKnown = loudness && (balance === 'each-at-target' || loudness.measure === 'integrated');
  if (!isKnown) throw new AppError('no-target', { spec: name, measure: messages.loudnessOfTheWhole });
  return loudness.target;
}

async function membersWith(
  server: ServerContext,
  lineUp: LineUpView,
  gains: ReadonlyMap<string, number> | null,
): Promise<TreatedMember[]> {
  const { members, waiting } = await treatedMembers(server, lineUp, (treatment, programmeId) => {
    const gainDb = gains?.get(programmeId);
    return gainDb === undefined ? treatment : { ...treatment, gainDb };
  });
  const [title] = waiting;
  if (title !== undefined) throw new AppError('not-measured', { title });
  return members;
}

/** Of each programme, the loudness that is to meet the target: its own, that of the whole, or of the loudest. */
function levelsOf(members: readonly TreatedMember[], balance: Balance, spec: Spec): (number | null)[] {
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
