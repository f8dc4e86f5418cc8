/** Levels of a record of a job file, solved before anything is written of it. */
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type BalancedMember, solveBalance } from '@/core/lineup/balance';
import type { Balance } from '@/core/lineup/line-up';
import type { Measurement } from '@/core/loudness/programme';
import type { Spec } from '@/core/spec/spec';
import { forecastLevels, gainedPower } from '@/core/treatment/forecast';
import { MOST_REDUCTION_DB } from '@/core/treatment/limited-solver';
import type { Limit } from '@/core/treatment/steps/limit';
import { fadesOf, type Treatment } from '@/core/treatment/treatment';
import { withForecast } from '@/workers/node/forecast-file';
import { unprepared } from '@/workers/node/prepare-file';
import type { FileReport } from '@/workers/protocol';
import type { Audio } from './audio';
import { type MeasuringOptions, measureAudio } from './measuring';
import { preparedAudio } from './preparing';

/** A track as the job file has it. */
export interface SetTrack {
  title: string;
  gapSeconds: number;
  treatment: Treatment;
}

/** A track behind the steps before its gain. */
interface Prepared extends SetTrack {
  audio: Audio;
  report: FileReport;
  measurement: Measurement;
  /** Where what a limiter needs of it is kept. */
  limitingPath: string;
}

/**
 * Finds the gain of each track that brings a record to its spec, as the Line up page does.
 *
 * @param limit one limiter over the whole, which does to each track what one of its own would; null where each keeps its own
 * @returns the tracks with their gains, and what stops them before the target
 * @throws AppError as `solveBalance`, or of a file that can't be read
 */
export async function levelledTracks<T extends SetTrack>(
  tracks: readonly T[],
  audios: readonly Audio[],
  { balance, spec, limit }: { balance: Balance; spec: Spec; limit: Limit | null },
  options: MeasuringOptions,
): Promise<{ tracks: T[]; stoppedBy: string[] }> {
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    const prepared: Prepared[] = [];
    for (const [i, { title, gapSeconds, treatment }] of tracks.entries()) {
      const audio = await preparedAudio(audios[i] as Audio, treatment, join(folder, `${i}.wav`));
      const limited = limit ? { ...treatment, limit } : treatment;
      const limitingPath = join(folder, `${i}.limiting`);
      prepared.push({
        ...{ title, gapSeconds, audio, limitingPath },
        treatment: limited,
        ...(await measureAudio(audio, options)),
      });
    }
    const { gainsDb, stoppedBy } = await solveBalance(
      tracks.map(({ treatment }) => treatment.gainDb),
      (wantedDb) => Promise.all(prepared.map((track, i) => memberAt(track, wantedDb[i] as number, options))),
      balance,
      spec,
    );
    return {
      tracks: tracks.map((track, i) => ({
        ...track,
        treatment: { ...track.treatment, gainDb: gainsDb[i] as number },
      })),
      stoppedBy,
    };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** What a track reads at a gain, without touching its audio but once for a limiter. */
async function memberAt(
  { title, gapSeconds, treatment, audio, report, measurement, limitingPath }: Prepared,
  gainDb: number,
  { layoutId = null }: { layoutId?: string | null | undefined },
): Promise<BalancedMember> {
  const { readings, format } = report;
  const { sampleRateHz, frames, channels } = format;
  const { weightedPower } = measurement.series;
  const { limit } = treatment;
  const ask = async ({ ceilingDbtp, lookAheadMs, releaseMs }: Limit) => {
    const limiting = { gainDb, ceilingDbtp, lookAheadMs, releaseMs };
    // As deep as is ever allowed: what is asked next lies within.
    const most = {
      gainDb: Math.max(gainDb, ceilingDbtp - (readings.truePeakDbtp ?? 0) + MOST_REDUCTION_DB),
      ceilingDbtp,
    };
    return withForecast(
      unprepared(audio.path),
      { readings, weightedPower, sampleRateHz, samples: frames * channels },
      most,
      { fileName: audio.file, layoutId, limitingPath, times: limiting },
      (forecast) => ({ ...forecast.at(limiting), ...forecast.curves(limiting) }),
    );
  };
  const limited = limit && (await ask(limit));
  const forecast = forecastLevels(
    { readings, weightedPower, format },
    { ...treatment, gainDb },
    fadesOf(treatment),
    limited,
  );
  return {
    ...{ title, gapSeconds, sampleRateHz, frames },
    isLimited: limit !== null,
    readings: forecast.readings,
    truePeakDbtp: forecast.readings.truePeakDbtp,
    weightedPower: gainedPower(forecast.curve),
  };
}
