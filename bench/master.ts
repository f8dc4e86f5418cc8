import { spawnSync } from 'node:child_process';
import { rm } from 'node:fs/promises';
import { music } from '@/cli/demo/synth';
import { SPECS } from '@/core/spec/catalogue';
import type { Spec } from '@/core/spec/spec';
import type { MeasuredProgramme } from '@/core/treatment/limited-forecast';
import { levelOptionsForEach, MOST_REDUCTION_DB, solveLimited } from '@/core/treatment/limited-solver';
import { treatmentSchema } from '@/core/treatment/treatment';
import { createWavWriter } from '@/formats/wav/writer';
import { FileSink } from '@/workers/node/file-bytes';
import { withForecast } from '@/workers/node/forecast-file';
import { measureFile } from '@/workers/node/measure-file';
import { unprepared } from '@/workers/node/prepare-file';
import { renderFile } from '@/workers/node/render-file';

const RATE = 48_000;
const CEILING = -1;
/** A limiter is asked for no more than this. */
const DRIVE_DB = 6;

export async function makeSong(path: string, minutes: number): Promise<void> {
  const seconds = 60 * minutes;
  const sections = [
    { startSeconds: 0, level: 0.4, drums: 0.3 },
    { startSeconds: seconds / 5, level: 0.9, drums: 1 },
    { startSeconds: (3 * seconds) / 5, level: 0.6, drums: 0.6 },
    { startSeconds: (4 * seconds) / 5, level: 1.1, drums: 1 },
  ];
  const channels = music(seconds, RATE, sections, 4);
  const frames = channels[0]?.length ?? 0;
  const sink = await FileSink.create(path);
  const writer = await createWavWriter(sink, { sampleRateHz: RATE, channels: 2, channelMask: 3, frames, bitDepth: 24 });
  const greatest = channels.reduce((most, samples) => samples.reduce((m, x) => Math.max(m, Math.abs(x)), most), 0);
  await writer.write(channels, frames, 0.8 / greatest);
  await writer.finish();
  await sink.finish();
}

/** From readings to a file that has been measured again, in seconds. */
export async function work(path: string, out: string) {
  const { report, measurement } = await measureFile(path);
  const { readings, format } = report;
  const { weightedPower } = measurement.series;
  const programme: MeasuredProgramme = {
    readings,
    weightedPower,
    sampleRateHz: RATE,
    samples: format.frames * format.channels,
  };
  const gainDb = CEILING - (readings.truePeakDbtp as number) + DRIVE_DB;
  const limitingPath = `${out}.limiting`;
  // Loud enough that all of the reduction is used.
  const loud: Spec = {
    ...(SPECS.find(({ id }) => id === 'streaming-music') as Spec),
    loudness: { measure: 'integrated', target: 0, toleranceBelow: 1, toleranceAbove: 1 },
  };
  const most = { gainDb, ceilingDbtp: CEILING };
  let startedMs = performance.now();
  const taken = () => (performance.now() - startedMs) / 1000;
  const solution = await withForecast(unprepared(path), programme, most, { limitingPath }, (forecast) =>
    solveLimited(forecast, loud, DRIVE_DB),
  );
  const solveSeconds = taken();

  const treatment = treatmentSchema.parse({ gainDb: solution?.gainDb, limit: { ceilingDbtp: CEILING } });
  startedMs = performance.now();
  const { reduction } = await renderFile(path, `${out}.wav`, { treatment, limitingPath });
  const renderSeconds = taken();
  startedMs = performance.now();
  // As people do it: with every thread there is, and its start.
  spawnSync(process.execPath, ['bin/opsimeter.mjs', 'measure', `${out}.wav`]);
  const verifySeconds = taken();

  const deep = { gainDb: gainDb - DRIVE_DB + MOST_REDUCTION_DB, ceilingDbtp: CEILING };
  const { forecastSeconds, everySpecSeconds } = await withForecast(
    unprepared(path),
    programme,
    deep,
    { limitingPath },
    (forecast) => {
      const timed = (driveDb: number) => {
        startedMs = performance.now();
        forecast.at({ gainDb: CEILING - (readings.truePeakDbtp as number) + driveDb, ceilingDbtp: CEILING });
        return taken();
      };
      // The first ones are compiled yet.
      const times = [5, 6.5, 5.5, 7, 6.1, 5.9, 6.2, 5.7, 6.4, 6.7]
        .map(timed)
        .slice(5)
        .sort((a, b) => a - b);
      startedMs = performance.now();
      levelOptionsForEach(forecast, SPECS);
      const everySpecSeconds = taken();
      return { forecastSeconds: times[2] as number, everySpecSeconds };
    },
  );
  await rm(`${out}.wav`);
  await rm(limitingPath);
  const greatestDb = reduction?.greatestDb ?? 0;
  return { solveSeconds, renderSeconds, verifySeconds, forecastSeconds, everySpecSeconds, greatestDb };
}
