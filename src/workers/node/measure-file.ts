import { readSync } from 'node:fs';
import { setImmediate as nextTurn } from 'node:timers/promises';
import { AppError } from '@/core/errors/app-error';
import { findings } from '@/core/findings/findings';
import { channelLayout } from '@/core/loudness/channel-layout';
import { type Measurement, ProgrammeMeter } from '@/core/loudness/programme';
import type { Segment } from '@/core/loudness/segment';
import type { AudioFormat } from '@/formats/audio-format';
import { readPcmHeader } from '@/formats/open-pcm';
import type { PcmHeader } from '@/formats/pcm-header';
import type { FrameReader } from '@/kernels/meter-kernel';
import type { FileReport } from '../protocol';
import { type Crew, help, newCounters, SegmentInbox, takeSegments, tellInOrder } from './crew';
import { FileSource, fileError } from './file-bytes';
import { ProgressReporter, type RunOptions } from './progress';

export interface MeasureOptions extends RunOptions {
  /** What a person calls the file, for errors. */
  fileName?: string;
  /** A layout chosen by hand, instead of the one that the file states. */
  layoutId?: string | undefined;
  /** What the file was decoded from; the report then speaks of that. */
  origin?: AudioFormat | undefined;
  /** Threads that measure beside this one. */
  crew?: Crew | undefined;
  /** Called once the file's header has been read. */
  onHeader?: ((header: PcmHeader) => void) | undefined;
  /** Called with each segment, in order. */
  onSegment?: ((segment: Segment) => void) | undefined;
}

/** Measures a file of PCM samples from disk in one pass, alone or together with a crew: the result is the same. */
export async function measureFile(
  path: string,
  options: MeasureOptions = {},
): Promise<{ report: Omit<FileReport, 'sha256'>; measurement: Measurement }> {
  const fileName = options.fileName ?? path;
  const file = await FileSource.open(path, options.fileName);
  try {
    const header = await readPcmHeader(file, fileName);
    options.onHeader?.(header);
    const { missingFrames, sizeUnknown } = header;
    const format = options.origin ? decodedFormat(options.origin, header.format) : header.format;
    const { sampleRateHz, channels, channelMask, frames } = format;
    const layout = channelLayout(channels, channelMask, options.layoutId);
    const meter = new ProgrammeMeter({ sampleRateHz, layout });
    const progress = new ProgressReporter(frames, sampleRateHz, options);
    let nonFiniteSamples = 0;
    let measuredFrames = 0;
    const next = options.crew?.next ?? newCounters();
    const inbox = new SegmentInbox(header, options.crew?.ports ?? [], (segment) => {
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
    const facts = { ...format, missingFrames, sizeUnknown, nonFiniteSamples };
    return {
      report: {
        format: { ...format, layout: layout.name },
        readings: measurement.readings,
        findings: findings(measurement, facts),
        nonFiniteSamples,
        sizeBytes: file.size,
      },
      measurement,
    };
  } finally {
    for (const port of options.crew?.ports ?? []) port.close();
    await file.close();
  }
}

/** What was decoded, told as the file that it was decoded from. */
export function decodedFormat(origin: AudioFormat, decoded: AudioFormat): AudioFormat {
  const { channelMask, layout, frames, durationSeconds } = decoded;
  return { ...origin, channelMask, layout, frames, durationSeconds };
}

/** Reads a file's header only. */
export async function peekHeader(path: string, fileName: string): Promise<PcmHeader> {
  const file = await FileSource.open(path, fileName);
  try {
    return await readPcmHeader(file, fileName);
  } finally {
    await file.close();
  }
}

/** Measures segments of a file for the thread that leads; returns when none is left. */
export async function helpMeasuring(path: string, fileName: string, { next, ports }: Crew): Promise<void> {
  const file = await FileSource.open(path, fileName);
  try {
    const header = await readPcmHeader(file, fileName);
    for (const port of ports) await help(readerOf(file, header, fileName), header, next, port);
  } finally {
    for (const port of ports) port.close();
    await file.close();
  }
}

/** Reads straight into a kernel's memory; in a thread of its own, nothing is gained by waiting elsewhere. */
function readerOf({ handle }: FileSource, { dataOffset, frameBytes }: PcmHeader, fileName: string): FrameReader {
  return (target, startFrame, frames) => {
    try {
      const wanted = frames * frameBytes;
      const offset = dataOffset + startFrame * frameBytes;
      let filled = 0;
      while (filled < wanted) {
        const read = readSync(handle.fd, target, filled, wanted - filled, offset + filled);
        if (read === 0) break;
        filled += read;
      }
      return Math.floor(filled / frameBytes);
    } catch (error) {
      throw fileError(error, fileName, 'file-unreadable');
    }
  };
}
