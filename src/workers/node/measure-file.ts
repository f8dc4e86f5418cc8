import { setImmediate as nextTurn } from 'node:timers/promises';
import { AppError } from '@/core/errors/app-error';
import { gatherEvidence } from '@/core/findings/evidence';
import { channelLayout } from '@/core/loudness/channel-layout';
import { edgesOf } from '@/core/loudness/edges';
import { type Measurement, ProgrammeMeter } from '@/core/loudness/programme';
import type { Segment } from '@/core/loudness/segment';
import { type AudioFormat, isWavKind } from '@/formats/audio-format';
import { readPcmHeader } from '@/formats/open-pcm';
import { checkMeasurable, type PcmHeader } from '@/formats/pcm-header';
import { admFacts } from '@/formats/wav/adm';
import { parseBext, readBext } from '@/formats/wav/bext';
import { treatedBefore } from '@/formats/wav/coding-history';
import type { FileReport } from '../protocol';
import { FileSource } from './file-bytes';
import { readerOf } from './help-measuring';
import { inspectFile } from './inspect-file';
import { ProgressReporter, type RunOptions } from './progress';
import { newCounters, SegmentInbox, type SegmentWorkers, takeSegments, tellInOrder } from './segment-workers';

export interface MeasureOptions extends RunOptions {
  /** What a person calls the file, for errors. */
  fileName?: string;
  /** A layout chosen by hand, instead of the one that the file states. */
  layoutId?: string | undefined;
  /** What the file was decoded from; the report then speaks of that. */
  origin?: AudioFormat | undefined;
  /** What was done to the file here before, in words, where that is known without reading it. */
  treatedBefore?: string | undefined;
  /** Threads that measure beside this one. */
  segmentWorkers?: SegmentWorkers | undefined;
  /** Called once the file's header has been read. */
  onHeader?: ((header: PcmHeader) => void) | undefined;
  /** Called with each segment, in order. */
  onSegment?: ((segment: Segment) => void) | undefined;
}

/** Measures a file of PCM samples from disk in one pass, alone or together with other threads: the result is the same. */
export async function measureFile(
  path: string,
  options: MeasureOptions = {},
): Promise<{ report: Omit<FileReport, 'sha256'>; measurement: Measurement }> {
  const fileName = options.fileName ?? path;
  const file = await FileSource.open(path, options.fileName);
  try {
    const header = await readPcmHeader(file, fileName);
    checkMeasurable(header.format, fileName);
    options.onHeader?.(header);
    const format = options.origin ? decodedFormat(options.origin, header.format) : header.format;
    const { sampleRateHz, channels, channelMask, frames } = format;
    const layout = channelLayout(channels, channelMask, options.layoutId);
    const meter = new ProgrammeMeter({ sampleRateHz, layout });
    const progress = new ProgressReporter(frames, sampleRateHz, options);
    let nonFiniteSamples = 0;
    let measuredFrames = 0;
    const next = options.segmentWorkers?.next ?? newCounters();
    const inbox = new SegmentInbox(header, options.segmentWorkers?.ports ?? [], (segment) => {
      meter.add(segment);
      tellInOrder(next);
      options.onSegment?.(segment);
      nonFiniteSamples += segment.nonFiniteSamples;
      measuredFrames += segment.frames;
      progress.at(measuredFrames);
    });
    await takeSegments(readerOf(file, header, fileName), header, next, async (index, segment) => {
      inbox.put(index, segment);
      inbox.check();
      // Lets in what the others have measured, and whoever wants this to be cancelled.
      await nextTurn();
    });
    await inbox.whenComplete();
    if (measuredFrames !== frames) throw new AppError('source-changed', { fileName });
    const measurement = meter.finish();
    return { report: await reportOf(file, header, measurement, { ...options, nonFiniteSamples }), measurement };
  } finally {
    for (const port of options.segmentWorkers?.ports ?? []) port.close();
    await file.close();
  }
}

/** What is said of a file once it has been measured: a second look is taken at some places of it. */
export async function reportOf(
  file: FileSource,
  header: PcmHeader,
  measurement: Measurement,
  options: Pick<MeasureOptions, 'layoutId' | 'origin' | 'treatedBefore'> & { nonFiniteSamples: number },
): Promise<Omit<FileReport, 'sha256'>> {
  const { missingFrames, sizeUnknown } = header;
  const { nonFiniteSamples, origin, layoutId } = options;
  const format = origin ? decodedFormat(origin, header.format) : header.format;
  const layout = channelLayout(format.channels, format.channelMask, layoutId);
  const { inspection, usedBits } = await inspectFile(file, header, measurement.series);
  const adm = origin ? undefined : await admOf(file, header);
  const treatedBefore = options.treatedBefore ?? (await historyOf(file, header));
  const { sampleRateHz, frames, sampleFormat, codec, bitDepth, bitRateBps, track, decodeErrors } = format;
  const said = { sampleRateHz, frames, sampleFormat, codec, bitDepth, bitRateBps, track, decodeErrors };
  const fromHeader = { missingFrames, sizeUnknown, ...(adm?.hasObjects ? { hasObjects: true } : {}) };
  const sourceFacts = { ...said, ...fromHeader, nonFiniteSamples, usedBits, treatedBefore };
  return {
    format: { ...format, layout: layout.name, ...(adm ? { adm } : {}) },
    readings: measurement.readings,
    evidence: gatherEvidence(measurement, inspection, sourceFacts),
    edges: edgesOf(measurement.series.weightedPower),
    nonFiniteSamples,
    missingFrames,
    sizeBytes: file.size,
  };
}

async function admOf(file: FileSource, { format }: PcmHeader): Promise<AudioFormat['adm']> {
  return isWavKind(format) && format.container !== 'RIFX' ? admFacts(file) : undefined;
}

/** What a WAV file's own history says that was done to it here. */
async function historyOf(file: FileSource, { format }: PcmHeader): Promise<string | null> {
  const isLittleEndian = format.container !== 'RIFX';
  const bext = isWavKind(format) ? await readBext(file, isLittleEndian) : undefined;
  return treatedBefore((bext && parseBext(bext, isLittleEndian)?.codingHistory) ?? []);
}

/** What was decoded, told as the file that it was decoded from. */
export function decodedFormat(origin: AudioFormat, decoded: AudioFormat): AudioFormat {
  const { channelMask, layout, frames, durationSeconds } = decoded;
  return { ...origin, channelMask, layout, frames, durationSeconds };
}

/** Reads the header only, of a file that can be measured. */
export async function peekHeader(path: string, fileName: string): Promise<PcmHeader> {
  const file = await FileSource.open(path, fileName);
  try {
    const header = await readPcmHeader(file, fileName);
    checkMeasurable(header.format, fileName);
    return header;
  } finally {
    await file.close();
  }
}
