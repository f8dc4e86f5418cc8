import { AppError } from '@/core/errors/app-error';
import type { Balance } from '@/core/lineup/line-up';
import { specLoudness } from '@/core/spec/requirements/loudness';
import { specPeak } from '@/core/spec/requirements/peak';
import type { Spec } from '@/core/spec/spec';
import { roundGain } from '@/core/treatment/steps/gain';
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
const CORRECTIONS = 6;
const NEAR_LU = 0.02;

/**
 * Finds the gains that bring a line-up to a spec's target: one for all, so that its balance stays, or one for each. No gain lifts a
 * peak over the ceiling, but that of a programme with a limiter.
 *
 * @throws AppError `not-found`, `not-measured`, or `nothing-to-measure` where there is no target or no loudness
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
  const stoppedBy = new Set<string>();
  for (let correction = 0; correction < CORRECTIONS; correction++) {
    const members = await membersWith(server, lineUp, gains);
    const levels = levelsOf(members, balance, spec);
    if (levels.every((level) => level === null)) {
      throw new AppError('nothing-to-measure', { reason: messages.nothingToMeasure });
    }
    const wanted = levels.map((level) => (level === null ? 0 : target - level));
    const allowed = members.map(({ treatment, readings }) =>
      treatment.limit || readings.truePeakDbtp === null
        ? Number.POSITIVE_INFINITY
        : spec.peak.ceiling - (specPeak(readings, spec) ?? 0),
    );
    const steps = isEach
      ? wanted.map((own, i) => Math.min(own, allowed[i] as number))
      : wanted.map(() => Math.min(...wanted, ...allowed));
    stoppedBy.clear();
    members.forEach(({ title }, i) => {
      if ((allowed[i] as number) <= (steps[i] as number) && (wanted[i] as number) > (steps[i] as number) + NEAR_LU)
        stoppedBy.add(title);
    });
    members.forEach(({ programmeId }, i) => {
      gains.set(programmeId, (gains.get(programmeId) ?? 0) + (steps[i] as number));
    });
    if (steps.every((step) => Math.abs(step) < NEAR_LU)) break;
  }
  return {
    gains: before.map(({ programmeId, treatment }) => ({
      programmeId,
      gainDb: roundGain(gains.get(programmeId) ?? 0, stoppedBy.size > 0 ? 'down' : 'nearest'),
      wasDb: treatment.gainDb,
    })),
    stoppedBy: [...stoppedBy],
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
