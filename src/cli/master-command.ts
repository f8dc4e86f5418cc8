/** `opsimeter master`: loaded only for it, since it reads and writes more than measuring does. */
import { existsSync } from 'node:fs';
import { basename } from 'node:path';
import { writtenFacts } from '@/core/delivery/facts';
import { describeFormat, resolveFormat } from '@/core/delivery/format';
import { statedStart } from '@/core/delivery/start-time-code';
import { AppError } from '@/core/errors/app-error';
import { findingsOf } from '@/core/findings/findings';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { isMuchReduction, MUCH_REDUCTION_DB, reductionText } from '@/core/limiter/reduction-words';
import { channelLayout, loudspeakersOf } from '@/core/loudness/channel-layout';
import { assess } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import { limitName } from '@/core/treatment/limit-name';
import { describeTreatment } from '@/core/treatment/treatment';
import { formatGain, formatLevel, formatNumber } from '@/core/units/format';
import { type AudioFormat, isWavKind } from '@/formats/audio-format';
import { admFacts } from '@/formats/wav/adm';
import { FileSource } from '@/workers/node/file-bytes';
import { placeFile } from '@/workers/node/place-file';
import { openAdm, programmeNamed } from '@/workers/node/render-adm';
import type { FileReport } from '@/workers/protocol';
import type { Audio } from './audio';
import { EXIT, json, type Output } from './commands';
import { checkCover } from './covers';
import type { MasterOptions, SourceFacts } from './master-options';
import { type Listener, type Mastered, master } from './mastering';
import { type MeasuringOptions, measureAudio, withAudio } from './measuring';
import { masterCommandMessages as messages } from './messages';
import { withPrepared } from './preparing';
import { changeLines, findingLines, verdictLines } from './print';

/** What was asked, what was there before, and what came of it. */
export interface MasteredFile {
  wanted: MasterOptions;
  before: FileReport;
  mastered: Mastered;
  /** One, or one for each channel. */
  paths: string[];
  /** The file as it came, ahead of every step. */
  source: AudioFormat;
}

export interface MasteringOptions extends MeasuringOptions {
  wanted: (source: SourceFacts) => MasterOptions;
  /** With a rendering: the tracks that it is rendered from are written, with their definition. */
  isTracks?: boolean | undefined;
}

/** The tracks of a definition, in place of the rendering that sets their levels. */
async function tracksOf(file: string, { rendering }: MasteringOptions, { treatment, limit, format }: MasterOptions) {
  if (!rendering) throw new AppError('usage', { reason: messages.tracksNeedRendering });
  const isLevelOnly = describeTreatment({ ...treatment, gainDb: 0, limit: null }, 1).length === 0;
  if (!isLevelOnly || limit.link !== 1 || limit.lfe !== 'linked') {
    throw new AppError('usage', { reason: messages.tracksAreLevelled });
  }
  if (format.withoutAdm) throw new AppError('usage', { reason: messages.tracksHaveAdm });
  const { header, definition } = await openAdm(file, file);
  const programme = programmeNamed(definition.model, file, rendering.programmeId);
  return {
    tracks: { path: file, layout: rendering.layout, programmeId: programme?.id ?? null },
    source: { channels: header.format.channels, adm: await admOf(file, header.format) },
  };
}

/** The audio definition of a file, if it has one. */
export async function admOf(path: string, format: AudioFormat): Promise<AudioFormat['adm']> {
  if (!isWavKind(format)) return undefined;
  const file = await FileSource.open(path);
  try {
    return await admFacts(file);
  } finally {
    await file.close();
  }
}

/** What a spec says of a mastered file. */
export function verdictOf({ mastered, source }: MasteredFile, spec: Spec): Verdict {
  const { after, format, treatment, expectedFrames } = mastered;
  return assess(spec, writtenFacts(after, { format, treatment, source, expectedFrames }));
}

/**
 * Masters a file to `outputPath`, which must not exist; split into channels, to `name.L.wav` and so on.
 *
 * @param wanted what is asked for, of this source
 */
export function masterFile(
  file: string,
  outputPath: string,
  listener: (before: FileReport, wanted: MasterOptions) => Listener,
  options: MasteringOptions,
): Promise<MasteredFile> {
  checkIsFree(outputPath);
  const { tracks, rendering } = options;
  return withAudio(file, (audio) => masterAudio(audio, outputPath, listener, options), { tracks, rendering });
}

/** Throws `file-exists` where something stands at a path already. */
export function checkIsFree(path: string): void {
  if (existsSync(path)) throw new AppError('file-exists', { fileName: path });
}

/** As `masterFile`, of a file that has been opened. */
export async function masterAudio(
  audio: Audio,
  outputPath: string,
  listener: (before: FileReport, wanted: MasterOptions) => Listener,
  options: MasteringOptions,
): Promise<MasteredFile> {
  const { file } = audio;
  const { layoutId } = options;
  const fileName = basename(outputPath);
  const temporaryPath = `${outputPath}.${process.pid}.part`;
  const { sampleRateHz, channels, channelMask } = audio.header.format;
  const loudspeakers = loudspeakersOf(channelLayout(channels, channelMask, layoutId));
  const wanted = options.wanted({ sampleRateHz, loudspeakers });
  await checkCover(wanted.cover);
  const { before, mastered } = await withPrepared(audio, wanted, async (prepared) => {
    const { report: before, measurement } = await measureAudio(prepared, options);
    const paths = { path: prepared.path, historyPath: audio.path, outputPath: temporaryPath };
    const came = { channels, adm: audio.origin ? undefined : await admOf(audio.path, audio.header.format) };
    const source = {
      ...paths,
      fileName,
      layoutId: layoutId ?? null,
      before,
      measurement,
      start: options.timeCode && statedStart(options.timeCode, sampleRateHz),
      ...(options.isTracks ? await tracksOf(file, options, wanted) : { source: came }),
    };
    return { before, mastered: await master(source, wanted, listener(before, wanted)) };
  });
  if (!mastered) throw new AppError('nothing-to-measure', { reason: messages.noLevel(file) });
  const paths: string[] = [];
  for (const { temporaryPath: path, channel } of mastered.files) {
    const finalPath = channel === null ? outputPath : outputPath.replace(/(\.[^.]+)$/, `.${channel}$1`);
    await placeFile(path, finalPath, basename(finalPath));
    paths.push(finalPath);
  }
  return { wanted, before, mastered, paths, source: audio.origin ?? audio.header.format };
}

export async function masterCommand(
  file: string,
  outputPath: string,
  asJson: boolean,
  output: Output,
  options: MasteringOptions,
): Promise<number> {
  const result = await masterFile(
    file,
    outputPath,
    (before, wanted) => (asJson ? SILENT : printing(output, before, wanted)),
    options,
  );
  const { before, mastered, wanted } = result;
  const { after } = mastered;
  const verdict = verdictOf(result, wanted.spec);
  if (asJson) {
    output.print(
      json({ file: outputPath, source: file, ...outcomeJson(result), findings: findingsOf(before), verdict }),
    );
  } else {
    output.print(`${file} → ${outputPath}`);
    output.print(messages.measuredAgain(outcomeText(mastered)));
    for (const line of outcomeLines(result, after, verdict)) output.print(line);
  }
  return verdict.inside ? EXIT.ok : EXIT.misses;
}

/** What has changed, what the spec says, and what stands to be said of a mastered file, as it was read back. */
export function outcomeLines(
  { before, mastered, wanted }: MasteredFile,
  after: FileReport,
  verdict: Verdict,
): string[] {
  const { shortfallLu, binding, reduction } = mastered;
  const lines = [...changeLines(before.readings, after.readings), ...verdictLines(verdict, wanted.spec)];
  if (shortfallLu > 0) lines.push(messages.stopsTheGain(stopName(binding), formatNumber(shortfallLu)));
  if (reduction && isMuchReduction(reduction)) {
    lines.push(messages.usuallyHeard(reductionText(reduction), MUCH_REDUCTION_DB));
  }
  return [...lines, ...findingLines(before)];
}

/**
 * The numbers of a mastered file, but for what its spec says of them.
 *
 * @param after as it was read back
 */
export function outcomeJson({ before, mastered }: MasteredFile, after: FileReport = mastered.after): object {
  const { gainDb, binding, shortfallLu, reduction, passes, ceilingDbtp } = mastered;
  return {
    gainDb,
    // Nothing is ever reduced that nobody chose.
    maxGainReductionDb: reduction?.greatestDb ?? 0,
    ceilingDbtp,
    reduction,
    bindingLimit: binding,
    shortfallLu,
    passes,
    sha256: after.sha256,
    sizeBytes: after.sizeBytes,
    format: after.format,
    before: before.readings,
    after: after.readings,
  };
}

/** What was done to a file, in a line. */
export function outcomeText({ gainDb, reduction, passes, ceilingDbtp }: Mastered): string {
  const again = passes > 1 ? messages.writtenTimes(passes) : '';
  const ceiling = reduction && ceilingDbtp !== null ? ` at ${formatLevel(ceilingDbtp, 'dBTP')}` : '';
  return `gain ${formatGain(gainDb, 2)}${limiterText(reduction, ceiling)}${again}`;
}

function stopName(stop: Mastered['binding']): string {
  return stop === 'asked' ? messages.whatWasAsked : limitName(stop);
}

export const SILENT: Listener = { onPlan: () => undefined, onProgress: () => undefined };

/** Prints the plan, and then what is being done, each quarter of it once. */
export function printing(output: Output, before: FileReport, { format }: MasterOptions): Listener {
  let last = '';
  return {
    onPlan: ({ treatment, stop, isOnTarget }) => {
      const steps = describeTreatment(treatment, before.format.sampleRateHz);
      output.print(`  plan: ${[...steps, describeFormat(resolveFormat(format, before.format))].join(' · ')}`);
      if (!isOnTarget && stop !== 'asked') output.print(messages.asFarAs(stopName(stop)));
    },
    onProgress: (doing, { fraction, timesRealTime }) => {
      const line = `  ${doing}: ${25 * Math.floor(4 * fraction)} %`;
      if (line === last) return;
      last = line;
      output.print(messages.realTime(line, formatNumber(timesRealTime ?? 0, 0)));
    },
  };
}

function limiterText(reduction: ReductionFigures | null, ceiling: string): string {
  if (!reduction) return '';
  const { greatestDb, percentile95Db, shareOfTime } = reduction;
  return messages.limited(
    ceiling,
    formatNumber(greatestDb),
    formatNumber(percentile95Db),
    formatNumber(100 * shareOfTime),
  );
}
