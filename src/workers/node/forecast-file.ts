import type { Spec } from '@/core/spec/spec';
import { LimitedForecast, type LimiterTimes, type MeasuredProgramme } from '@/core/treatment/limited-forecast';
import {
  type LevelOptions,
  type LimitedSolution,
  levelOptions,
  likelyReductionDb,
  MOST_REDUCTION_DB,
  solveLimited,
} from '@/core/treatment/limited-solver';
import { LINKED } from '@/core/treatment/steps/limit';
import { createKernelLoops } from '@/kernels/curve-kernel';
import type { LimitJob, LimitReport, Progress } from '../protocol';
import { ensureLimiting, LimitingFile } from './limiting-file';
import type { PreparedSource } from './prepared-reader';
import type { RunOptions } from './progress';

interface ForecastOptions extends RunOptions {
  fileName?: string | undefined;
  layoutId?: string | null | undefined;
  limitingPath: string;
  /** The limiter's, where they are not the usual ones. */
  times?: LimiterTimes | undefined;
}

/**
 * A forecast of what a limiter makes of a source, by what is kept of it at `limitingPath`, or else put there. Hands it on
 * for as long as it is used.
 *
 * @param most the greatest gain that will be asked for, against its ceiling: what lies deeper is not looked for
 */
export async function withForecast<T>(
  source: PreparedSource,
  programme: MeasuredProgramme,
  most: { gainDb: number; ceilingDbtp: number },
  options: ForecastOptions,
  use: (forecast: LimitedForecast) => T,
): Promise<T> {
  const { limitingPath, times } = options;
  await ensureLimiting(source, limitingPath, most, { ...options, linking: LINKED });
  const file = new LimitingFile(limitingPath);
  try {
    return use(LimitedForecast.of(programme, file.fine(), { loops: createKernelLoops(), times }));
  } finally {
    file.close();
  }
}

/** What a thread answers to an ask about a limiter. */
export async function forecastFile(job: LimitJob, onProgress: (progress: Progress) => void): Promise<LimitReport> {
  const { source, programme, ask } = job;
  const options = { ...job, onProgress };
  if ('id' in ask) return { options: await levelOptionsOf(source, programme, ask, options) };
  if ('spec' in ask) return { solution: await solutionOf(source, programme, ask, options) };
  const limited = await withForecast(source, programme, ask, { ...options, times: ask }, (forecast) => ({
    ...forecast.at(ask),
    ...forecast.curves(ask),
  }));
  return { limited };
}

/** Looked for as deep as is likely to do, and only where that does not, as deep as is ever allowed. */
async function levelOptionsOf(
  source: PreparedSource,
  programme: MeasuredProgramme,
  spec: Spec,
  options: ForecastOptions,
): Promise<LevelOptions | null> {
  const { truePeakDbtp } = programme.readings;
  if (truePeakDbtp === null) return null;
  const ceilingDbtp = spec.peak.ceiling;
  const within = (reductionDb: number) => {
    const most = { gainDb: ceilingDbtp - truePeakDbtp + reductionDb, ceilingDbtp };
    return withForecast(source, programme, most, options, (forecast) => levelOptions(forecast, spec, reductionDb));
  };
  const likelyDb = likelyReductionDb(programme, spec);
  const found = await within(likelyDb);
  const isOutOfReach = found?.limited && !found.target && !found.isSpent;
  return isOutOfReach && likelyDb < MOST_REDUCTION_DB ? within(MOST_REDUCTION_DB) : found;
}

async function solutionOf(
  source: PreparedSource,
  programme: MeasuredProgramme,
  { spec, maxReductionDb }: { spec: Spec; maxReductionDb: number },
  options: ForecastOptions,
): Promise<LimitedSolution | null> {
  const { truePeakDbtp } = programme.readings;
  if (truePeakDbtp === null || !spec.loudness) return null;
  const ceilingDbtp = spec.peak.ceiling;
  const most = { gainDb: ceilingDbtp - truePeakDbtp + maxReductionDb, ceilingDbtp };
  return withForecast(source, programme, most, options, (forecast) => solveLimited(forecast, spec, maxReductionDb));
}
