import { AppError, isAppError } from '@/core/errors/app-error';
import { joined, solveBalance } from '@/core/lineup/balance';
import { BALANCES, type Balance } from '@/core/lineup/line-up';
import type { Level } from '@/core/units/decibel';
import type { ServerContext } from '../context';
import { specInUse } from '../jobs/jobs';
import { changeTreatment } from '../treatments/treatments';
import { type TreatedMember, treatedMembers } from './line-up-reading';
import { type LineUpView, lineUpOf } from './line-ups';

/** What the levels of a line-up come to. */
export interface BalancePlan {
  gains: { programmeId: string; gainDb: number; wasDb: number }[];
  /** What stops the gain before the target: titles of programmes whose peaks reach the ceiling. */
  stoppedBy: string[];
}

/**
 * Finds the gains that bring a line-up to a spec's target.
 *
 * @throws AppError `not-found`, `not-measured`, or as `solveBalance`
 */
async function planBalance(
  server: ServerContext,
  lineUpId: string,
  balance: Balance,
  specId?: string,
): Promise<BalancePlan> {
  const lineUp = lineUpOf(server, lineUpId);
  const spec = specInUse(server, lineUp.jobId, specId ?? lineUp.specId);
  const before = await membersWith(server, lineUp, null);
  const setDb = before.map(({ treatment }) => treatment.gainDb);
  const membersAt = async (gainsDb: readonly number[]) => {
    const gains = new Map(before.map(({ programmeId }, i) => [programmeId, gainsDb[i] as number]));
    const members = await membersWith(server, lineUp, gains);
    return members.map((member) => ({ ...member, isLimited: member.treatment.limit !== null }));
  };
  const { gainsDb, stoppedBy } = await solveBalance(setDb, membersAt, balance, spec);
  return {
    gains: before.map(({ programmeId, treatment }, i) => ({
      programmeId,
      gainDb: gainsDb[i] as number,
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
