import { isLossy } from '../file-formats/file-formats';
import type { Spec } from '../spec/spec';
import type { Landing } from '../treatment/plan-levels';
import { roundGain } from '../treatment/steps/gain';
import { type Limit, USUAL_LIMITER } from '../treatment/steps/limit';
import type { Treatment } from '../treatment/treatment';
import type { Level } from '../units/decibel';
import type { ResolvedFormat } from './format';

/** A loudness this near to its target is on it; coding moves it by some hundredths from one writing to the next. */
export const SOLVED_WITHIN_LU = 0.05;
export const CODED_WITHIN_LU = 0.1;
/** Written once, and at most three times more; five times more where it is coded, since nobody can foretell coded peaks. */
const MOST_PASSES = 4;
const MOST_CODED_PASSES = 6;
/** A limiter that takes no more than this beyond what it may is within that. */
const REDUCTION_WITHIN_DB = 0.005;
/**
 * A decoded peak is brought so far below the ceiling that the next coding of it does not stand above again; where it does all
 * the same, three times as far, up to the most.
 */
const CODING_MARGIN_DB = 0.05;
const MARGIN_GROWTH = 3;
const MOST_MARGIN_DB = 0.45;

/** What a delivery is to be, as far as its levels go. */
export interface PassOrder {
  format: Pick<ResolvedFormat, 'kind'>;
  spec: Spec;
  /** How a limiter is set that only coding makes necessary; the usual way unless it is said. */
  limiter?: Omit<Limit, 'ceilingDbtp'> | undefined;
}

/** Where a written file landed, by what its spec measures: loudness in LUFS or dBFS, peak in dBTP or dBFS. */
export interface Pass {
  gainDb: number;
  /** Of the limiter; null where there was none. */
  ceilingDbtp: number | null;
  loudness: Level;
  peak: Level;
}

/** A pass, and what it was made with. */
export interface Try extends Pass, Levels {
  /** What the limiter has taken at most. */
  greatestDb: number;
}

interface Levels {
  treatment: Treatment;
  landing: Landing | null;
}

/**
 * What to write next, or undefined where it stands as well as it can. A coder answers a little change with any other peak: the
 * last time that is left is not spent on loudness, and goes back to what was inside before, if anything was.
 */
export function nextPass(order: PassOrder, tries: readonly Try[]): Levels | undefined {
  const last = tries.at(-1) as Try;
  const most = isLossy(order.format.kind) ? MOST_CODED_PASSES : MOST_PASSES;
  if (tries.length === most) return undefined;
  const marginDb = Math.min(MOST_MARGIN_DB, CODING_MARGIN_DB * MARGIN_GROWTH ** (tries.length - 1));
  const next = moved(order, last, marginDb);
  if (tries.length < most - 1 || !isLossy(order.format.kind)) return next;
  if (!isOver(order, last)) return undefined;
  const [best] = tries
    .filter((own) => !isOver(order, own))
    .sort((a, b) => Math.abs(leftOf(order, a)) - Math.abs(leftOf(order, b)));
  return best ?? next;
}

/** What coding has lifted above the ceiling, in dB. */
function excessOf({ format, spec }: PassOrder, { peak }: Pass): number {
  return isLossy(format.kind) && peak !== null ? Math.max(0, peak - spec.peak.ceiling) : 0;
}

/** What a limiter has taken beyond what it may, in dB: its own look at peaks may be a little higher than the meter's. */
function overtakenOf({ landing, greatestDb }: Try): number {
  const beyondDb = greatestDb - (landing?.maxReductionDb ?? Number.POSITIVE_INFINITY);
  return beyondDb > REDUCTION_WITHIN_DB ? beyondDb : 0;
}

const isOver = (order: PassOrder, own: Try) => excessOf(order, own) > 0 || overtakenOf(own) > 0;

/** Left to the target, in LU, where the levels may be moved towards it. */
function leftOf({ spec }: PassOrder, { loudness, landing }: Try): number {
  return landing && spec.loudness && loudness !== null ? spec.loudness.target - loudness : 0;
}

function moved(order: PassOrder, own: Try, marginDb: number): Levels | undefined {
  const { treatment, landing } = own;
  const { limit, gainDb } = treatment;
  const within = isLossy(order.format.kind) ? CODED_WITHIN_LU : SOLVED_WITHIN_LU;
  const leftLu = leftOf(order, own);
  const excessDb = excessOf(order, own);
  const lowerByDb = excessDb > 0 ? excessDb + marginDb : 0;
  const nextLimit = limit && lowerByDb > 0 ? { ...limit, ceilingDbtp: limit.ceilingDbtp - lowerByDb } : limit;
  // Where levels are as somebody set them, the ceiling alone is moved.
  if (!landing) return nextLimit === limit ? undefined : { treatment: { ...treatment, limit: nextLimit }, landing };
  const { luPerDb, mayLimitDb = 0 } = landing;
  if (!limit && lowerByDb > 0 && mayLimitDb > 0) return nowLimited(order, own, landing, lowerByDb);
  const overtakenDb = overtakenOf(own);
  const mostGainDb = overtakenDb > 0 ? gainDb - overtakenDb : landing.mostGainDb;
  // What nobody limits is turned down. A lower ceiling takes loudness with it, which gain gives back; the most that gain may be
  // goes down with the ceiling, so that no more is limited than is allowed.
  const cappedDb = limit
    ? mostGainDb - lowerByDb
    : Math.min(mostGainDb, lowerByDb > 0 ? gainDb - lowerByDb : mostGainDb);
  const lostLu = limit ? lowerByDb * (1 - luPerDb) : 0;
  const neededLu = (Math.abs(leftLu) > within ? leftLu : 0) + lostLu;
  const nextGainDb = roundGain(
    Math.min(lowerByDb > 0 || overtakenDb > 0 || neededLu !== 0 ? cappedDb : gainDb, gainDb + neededLu / luPerDb),
    'down',
  );
  if (nextGainDb === gainDb && nextLimit === limit) return madeUp(order, own, within);
  return {
    treatment: { ...treatment, gainDb: nextGainDb, limit: nextLimit },
    landing: { ...landing, mostGainDb: cappedDb },
  };
}

/** A limiter that is allowed, and was not needed before coding, takes what coding has lifted above the ceiling. */
function nowLimited(order: PassOrder, own: Try, landing: Landing, lowerByDb: number): Levels {
  const { treatment } = own;
  const { gainDb } = treatment;
  const { mostGainDb, luPerDb, mayLimitDb = 0 } = landing;
  // Gain alone would have been stopped where the true peak meets the ceiling: so it stands that far below now.
  const peakDbtp = order.spec.peak.ceiling - (mostGainDb - gainDb);
  const ceilingDbtp = peakDbtp - lowerByDb;
  const mostLimitedDb = gainDb - lowerByDb + mayLimitDb;
  const nextGainDb = roundGain(Math.min(mostLimitedDb, gainDb + Math.max(0, leftOf(order, own))), 'down');
  return {
    treatment: { ...treatment, gainDb: nextGainDb, limit: { ...USUAL_LIMITER, ...order.limiter, ceilingDbtp } },
    landing: { mostGainDb: mostLimitedDb, luPerDb, maxReductionDb: mayLimitDb },
  };
}

/**
 * Some coders turn everything down a little (LAME by 0.26 dB at 192 kbit/s). What that leaves free below the ceiling is given
 * back, to gain and ceiling alike: the limiter takes no more than before.
 */
function madeUp(order: PassOrder, own: Try, withinLu: number): Levels | undefined {
  const { treatment, landing, peak } = own;
  const leftLu = leftOf(order, own);
  if (!landing || !isLossy(order.format.kind) || leftLu <= withinLu || peak === null) return undefined;
  const freeDb = order.spec.peak.ceiling - peak - CODING_MARGIN_DB;
  const { limit } = treatment;
  const raiseDb = roundGain(Math.min(leftLu, freeDb, limit ? -limit.ceilingDbtp : freeDb), 'down');
  if (raiseDb <= 0) return undefined;
  return {
    treatment: {
      ...treatment,
      gainDb: roundGain(treatment.gainDb + raiseDb, 'down'),
      limit: limit && { ...limit, ceilingDbtp: limit.ceilingDbtp + raiseDb },
    },
    landing: { ...landing, mostGainDb: landing.mostGainDb + raiseDb },
  };
}
