import { existsSync } from 'node:fs';
import { layoutGroups } from '@/core/limiter/link';
import { channelLayout } from '@/core/loudness/channel-layout';
import type { Spec } from '@/core/spec/spec';
import { LimitedForecast, type MeasuredProgramme } from '@/core/treatment/limited-forecast';
import { type Answers, answersFor, likelyReductionDb, MOST_REDUCTION_DB } from '@/core/treatment/limited-solver';
import { createKernelLoops } from '@/kernels/tracer-kernel';
import type { LimitJob, LimitReport, Progress } from '../protocol';
import { analyseForLimiter, floorFor, LimitingFile } from './limiting-file';
import { peekHeader } from './measure-file';
import type { RunOptions } from './progress';

const LINKED = { link: 1, lfe: 'linked' } as const;

interface ForecastOptions extends RunOptions {
  fileName?: string | undefined;
  layoutId?: string | null | undefined;
  limitingPath: string;
  releaseMs?: number | null;
}

/**
 * A forecast of what a limiter makes of a file, by what is kept of it at `limitingPath`, or else put there. Hands it on
 * for as long as it is used.
 *
 * @param most the greatest gain that will be asked for, against its ceiling: what lies deeper is not looked for
 */
export async function withForecast<T>(
  path: string,
  programme: MeasuredProgramme,
  most: { gainDb: number; ceilingDbtp: number },
  options: ForecastOptions,
  use: (forecast: LimitedForecast) => T,
): Promise<T> {
  const { limitingPath, fileName, layoutId, signal, onProgress, releaseMs = null } = options;
  const floorDbtp = floorFor(most.gainDb, most.ceilingDbtp);
  if (!isDeepEnough(limitingPath, floorDbtp)) {
    const { format } = await peekHeader(path, fileName ?? path);
    const layout = channelLayout(format.channels, format.channelMask, layoutId ?? undefined);
    const groups = layoutGroups(layout, LINKED);
    await analyseForLimiter(path, limitingPath, { fileName, layoutId, groups, floorDbtp, signal, onProgress });
  }
  const file = new LimitingFile(limitingPath);
  try {
    return use(LimitedForecast.of(programme, file.fine(), { loops: createKernelLoops(), releaseMs }));
  } finally {
    file.close();
  }
}

function isDeepEnough(limitingPath: string, floorDbtp: number): boolean {
  if (!existsSync(limitingPath)) return false;
  const file = new LimitingFile(limitingPath);
  try {
    return file.floorDbtp <= floorDbtp;
  } finally {
    file.close();
  }
}

/** What a thread answers to an ask about a limiter. */
export async function forecastFile(job: LimitJob, onProgress: (progress: Progress) => void): Promise<LimitReport> {
  const { path, programme, ask } = job;
  const options = { ...job, onProgress };
  if ('id' in ask) return { answers: await answersOf(path, programme, ask, options) };
  return { limited: await withForecast(path, programme, ask, options, (forecast) => forecast.at(ask)) };
}

/** Looked for as deep as is likely to do, and only where that does not, as deep as is ever allowed. */
async function answersOf(
  path: string,
  programme: MeasuredProgramme,
  spec: Spec,
  options: ForecastOptions,
): Promise<Answers | null> {
  const { truePeakDbtp } = programme.readings;
  if (truePeakDbtp === null) return null;
  const ceilingDbtp = spec.peak.ceiling;
  const within = (reductionDb: number) => {
    const most = { gainDb: ceilingDbtp - truePeakDbtp + reductionDb, ceilingDbtp };
    return withForecast(path, programme, most, options, (forecast) => answersFor(forecast, spec, reductionDb));
  };
  const likelyDb = likelyReductionDb(programme, spec);
  const answers = await within(likelyDb);
  const isOutOfReach = answers?.limited && !answers.target && !answers.isSpent;
  return isOutOfReach && likelyDb < MOST_REDUCTION_DB ? within(MOST_REDUCTION_DB) : answers;
}
