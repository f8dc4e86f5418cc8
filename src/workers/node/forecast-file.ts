import { existsSync } from 'node:fs';
import { LimitedForecast, type MeasuredProgramme } from '@/core/treatment/limited-forecast';
import { answersFor, MOST_REDUCTION_DB } from '@/core/treatment/limited-solver';
import { dbToAmplitude } from '@/core/units/decibel';
import { createKernelTracer } from '@/kernels/tracer-kernel';
import type { LimitJob, LimitReport, Progress } from '../protocol';
import { analyseForLimiter, LimitingFile } from './limiting-file';
import { peekHeader } from './measure-file';
import type { RunOptions } from './progress';
import { limiterGroups } from './render-file';

/** A decibel of room, for what corrections raise. */
const ROOM_DB = 1;
const LINKED = { link: 1, lfe: 'linked' } as const;

interface ForecastOptions extends RunOptions {
  fileName?: string | undefined;
  layoutId?: string | null | undefined;
  limitingPath: string;
  releaseMs?: number | null;
}

/**
 * A forecast of what a limiter makes of a file, by what is kept of it at `limitingPath`, or else made there: good for any
 * reduction that is ever allowed. Hands it on for as long as it is used.
 */
export async function withForecast<T>(
  path: string,
  programme: MeasuredProgramme,
  options: ForecastOptions,
  use: (forecast: LimitedForecast) => T,
): Promise<T> {
  const { limitingPath, fileName, layoutId, signal, onProgress, releaseMs = null } = options;
  if (!existsSync(limitingPath)) {
    const { format } = await peekHeader(path, fileName ?? path);
    const { truePeakDbtp } = programme.readings;
    const floor = truePeakDbtp === null ? 1 : dbToAmplitude(truePeakDbtp - MOST_REDUCTION_DB - ROOM_DB);
    const groups = limiterGroups(format, layoutId, LINKED);
    await analyseForLimiter(path, limitingPath, { fileName, layoutId, groups, floor, signal, onProgress });
  }
  const file = new LimitingFile(limitingPath);
  try {
    return use(LimitedForecast.of(programme, file.fine(), { trace: createKernelTracer(), releaseMs }));
  } finally {
    file.close();
  }
}

/** What a thread answers to an ask about a limiter. */
export function forecastFile(job: LimitJob, onProgress: (progress: Progress) => void): Promise<LimitReport> {
  const { path, programme, ask } = job;
  return withForecast(path, programme, { ...job, onProgress }, (forecast) =>
    'id' in ask ? { answers: answersFor(forecast, ask) } : { limited: forecast.at(ask) },
  );
}
