import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { treatedProgramme } from '@/core/delivery/compose';
import { formatProblems, type ResolvedFormat, resolveFormat } from '@/core/delivery/format';
import { CODED_WITHIN_LU, SOLVED_WITHIN_LU } from '@/core/delivery/next-pass';
import type { StatedStart } from '@/core/delivery/start-time-code';
import { AppError } from '@/core/errors/app-error';
import { isLossy } from '@/core/file-formats/file-formats';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import type { Measurement } from '@/core/loudness/programme';
import { specLoudness } from '@/core/spec/requirements/loudness';
import type { MeasuredProgramme } from '@/core/treatment/limited-forecast';
import { solveLimited } from '@/core/treatment/limited-solver';
import { type Landing, planLevels } from '@/core/treatment/plan-levels';
import type { BindingLimit } from '@/core/treatment/solver';
import type { Treatment } from '@/core/treatment/treatment';
import { deliver } from '@/workers/node/deliver-file';
import type { WrittenFile } from '@/workers/node/delivery-order';
import { withForecast } from '@/workers/node/forecast-file';
import { peekHeader } from '@/workers/node/measure-file';
import { unprepared } from '@/workers/node/prepare-file';
import { renderFile } from '@/workers/node/render-file';
import type { FileReport, Progress } from '@/workers/protocol';
import { measureTracks, renderTracks, type TracksOf } from './adm-tracks';
import type { MasterOptions } from './master-options';
import { measureAudio } from './measuring';
import { masteringMessages as messages } from './messages';

export interface MasterSource {
  path: string;
  /** Whose history the written file goes on with. */
  historyPath: string;
  /** Must not exist; whatever goes wrong, nothing is left there. */
  outputPath: string;
  fileName: string;
  layoutId: string | null;
  before: FileReport;
  measurement: Measurement;
  /** When it begins, in place of what it says of that. */
  start?: StatedStart | undefined;
  /** Of the file as it came. */
  source: { channels: number; adm?: { hasTimes: boolean } | undefined };
  /** Of an audio definition whose tracks are written, levelled by a rendering of it, which is what is read. */
  tracks?: TracksOf | undefined;
}

/** What stopped the gain where it is: a limit, or what was asked. */
type Stop = BindingLimit | 'asked';

/** What is to be done, before anything is written. */
interface Plan {
  treatment: Treatment;
  /** How it may still be corrected; null where it is as it was asked. */
  landing: Landing | null;
  stop: Stop;
  /** It is expected to reach the target. */
  isOnTarget: boolean;
}

export interface Mastered {
  gainDb: number;
  binding: Stop;
  /** Left to the target, in LU; 0 where it is reached or there is none. */
  shortfallLu: number;
  /** Null where there was no limiter. */
  reduction: ReductionFigures | null;
  /** How often the file was written until it was on the target. */
  passes: number;
  /** Measured from the written file. */
  after: FileReport;
  /** Under their temporary names. */
  files: WrittenFile[];
  format: ResolvedFormat;
  /** Of the limiter, as it was in the end; null where there was none. */
  ceilingDbtp: number | null;
  /** As it was in the end. */
  treatment: Treatment;
  expectedFrames: number;
}

export interface Listener {
  onPlan(plan: Plan): void;
  onProgress(doing: string, progress: Progress): void;
}

/**
 * Writes a source with the gain that its spec asks for and, where that is allowed, a limiter for what then exceeds the
 * ceiling. Written and measured until it is on the target, at most four times (`deliver`).
 *
 * @returns undefined where there is no level that a gain could move
 */
export async function master(
  source: MasterSource,
  options: MasterOptions,
  listener: Listener,
): Promise<Mastered | undefined> {
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    const limitingPath = join(folder, 'limiting.bin');
    const plan = await planOf(source, options, limitingPath, listener);
    if (!plan) return undefined;
    listener.onPlan(plan);
    return await land(source, options, plan, limitingPath, listener);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function land(
  { source, ...file }: MasterSource,
  options: MasterOptions,
  plan: Plan,
  limitingPath: string,
  listener: Listener,
): Promise<Mastered> {
  const { spec } = options;
  const { path, historyPath, outputPath, fileName, layoutId, before, tracks, start } = file;
  const { channels, sampleRateHz, layout } = before.format;
  const [problem] = formatProblems(options.format, {
    ...treatedProgramme(
      options.treatment,
      { channels: source.channels, sampleRateHz, adm: source.adm },
      options.format,
    ),
    channels,
    sampleRateHz,
    layout,
  });
  if (problem) throw new AppError('format-impossible', { problem: problem.text, nearest: problem.nearestText });
  const { limit } = plan.treatment;
  // What is kept of the source speaks of channels that go down together.
  const isKept =
    limit !== null && plan.stop !== 'asked' && limit.link === 1 && limit.lfe === 'linked' && !limit.linkGroups;
  const format = resolveFormat(options.format, { channels, sampleRateHz });
  const written = writtenLayoutId(format.channels, layoutId);
  const delivered = await deliver(
    {
      temporaryPath: outputPath,
      fileName,
      format,
      spec,
      tags: options.tags,
      cover: options.cover,
      layoutId: written,
      treatment: plan.treatment,
      limiter: options.limit,
      landing: plan.landing,
    },
    {
      render: ({ path: renderedPath, ...output }, treatment, onProgress) => {
        const how = {
          ...output,
          treatment,
          fileName,
          layoutId,
          historyPath,
          isPrepared: true,
          onProgress,
          tags: options.tags,
          start,
          writtenAtMs: Date.now(),
        };
        return tracks
          ? renderTracks(tracks, path, renderedPath, { ...how, limitingPath })
          : renderFile(path, renderedPath, { ...how, limitingPath: isKept ? limitingPath : undefined });
      },
      measure: async (writtenPath, origin) => {
        if (tracks) return measureTracks(tracks, writtenPath, fileName);
        const header = await peekHeader(writtenPath, fileName);
        const audio = { file: writtenPath, path: writtenPath, header, origin: origin ?? undefined };
        return (await measureAudio(audio, written === null ? {} : { layoutId: written })).report;
      },
    },
    { onProgress: (progress) => listener.onProgress('writing', progress) },
  );
  const { report: after, treatment, reduction, passes, files, expectedFrames } = delivered;
  const reached = specLoudness(after.readings, spec);
  const leftLu = spec.loudness && reached !== null ? spec.loudness.target - reached : 0;
  const isOn = Math.abs(leftLu) <= (isLossy(format.kind) ? CODED_WITHIN_LU : SOLVED_WITHIN_LU);
  return {
    gainDb: treatment.gainDb,
    reduction,
    after,
    passes: passes.length,
    files,
    binding: bindingOf(plan.stop, isOn && spec.loudness !== undefined),
    shortfallLu: isOn || leftLu < 0 ? 0 : leftLu,
    ceilingDbtp: treatment.limit?.ceilingDbtp ?? null,
    format,
    treatment,
    expectedFrames,
  };
}

/** What stopped the gain once the file was read back: where coding left it short of its target, the ceiling of the decoded peaks did. */
function bindingOf(stop: Stop, isOn: boolean): Stop {
  if (stop === 'asked') return stop;
  if (isOn) return 'target';
  return stop === 'target' ? 'ceiling' : stop;
}

/** What is asked, or what the one planner finds. */
async function planOf(
  source: MasterSource,
  options: MasterOptions,
  limitingPath: string,
  listener: Listener,
): Promise<Plan | undefined> {
  const { before, measurement, path, fileName, layoutId } = source;
  const { spec, maxReductionDb, limit: times } = options;
  const { readings, format } = before;
  const { weightedPower } = measurement.series;
  const { truePeakDbtp } = readings;
  const limit = { ...times, ceilingDbtp: spec.peak.ceiling };
  if (options.gainDb !== null) {
    if (truePeakDbtp === null) return undefined;
    const treatment = { ...options.treatment, gainDb: options.gainDb, limit: maxReductionDb > 0 ? limit : null };
    return { treatment, landing: null, stop: 'asked', isOnTarget: false };
  }
  const plan = await planLevels(
    { readings, weightedPower, format },
    { ...options.treatment, limit },
    spec,
    { maxReductionDb, withoutTarget: 'to-ceiling' },
    async (aimed, allowedDb) => {
      if (truePeakDbtp === null) return null;
      const most = { gainDb: aimed.peak.ceiling - truePeakDbtp + allowedDb, ceilingDbtp: aimed.peak.ceiling };
      const onProgress = (progress: Progress) => listener.onProgress(messages.lookingForPeaks, progress);
      return withForecast(
        unprepared(path),
        programmeOf(before, weightedPower),
        most,
        { fileName, layoutId, limitingPath, times, onProgress },
        (forecast) => solveLimited(forecast, aimed, allowedDb),
      );
    },
  );
  if (!plan) return undefined;
  const { treatment, landing, stop } = plan;
  const isOnTarget = stop.binding === 'target';
  // A limiter that reaches the target is what stops it where the file lands short all the same.
  return { treatment, landing, isOnTarget, stop: isOnTarget && treatment.limit ? 'reduction' : stop.binding };
}

function programmeOf({ readings, format }: FileReport, weightedPower: Float64Array): MeasuredProgramme {
  const { sampleRateHz, frames, channels } = format;
  return { readings, weightedPower, sampleRateHz, samples: frames * channels };
}
