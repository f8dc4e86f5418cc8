import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import { ProgrammeMeter } from '@/core/loudness/programme';
import { FOLLOWING_FRAMES, RUN_IN_SECONDS, segmentAt, segmentCount } from '@/core/loudness/segment';
import { Packer } from '@/formats/pack';
import { type FrameReader, MeterKernel } from '@/kernels/meter-kernel';
import type { PreparedReport } from '../protocol';
import { AnalysisWriter } from './analysis-file';
import { withPrepared } from './prepare-file';
import type { PreparedReader, PreparedSource } from './prepared-reader';
import { ProgressReporter, type RunOptions } from './progress';

const ENCODING = { type: 'f32', isBigEndian: false } as const;
const SAMPLE_BYTES = 4;

/**
 * Measures what a treatment makes of a source before its gain, without writing it anywhere: the same meter as for files,
 * over frames that are made as they are asked for.
 *
 * @param analysisPath where the series and the waveform are kept
 */
export async function measurePrepared(
  source: PreparedSource,
  analysisPath: string,
  options: RunOptions & { fileName: string; layoutId: string | null },
): Promise<PreparedReport> {
  return withPrepared(source, options, async (reader) => {
    const { format } = reader;
    const { sampleRateHz, channels, channelMask, frames } = format;
    const layout = channelLayout(channels, channelMask, options.layoutId ?? undefined);
    const meter = new ProgrammeMeter({ sampleRateHz, layout });
    const kernel = new MeterKernel({ sampleRateHz, channels, encoding: ENCODING });
    const analysis = new AnalysisWriter(analysisPath, format);
    const progress = new ProgressReporter(frames, sampleRateHz, options);
    try {
      const count = segmentCount(sampleRateHz, frames);
      for (let first = 0; first < count; first += kernel.segmentsAtOnce) {
        const length = Math.min(kernel.segmentsAtOnce, count - first);
        const parts = Array.from({ length }, (_, i) => segmentAt(first + i, sampleRateHz, frames));
        const { read, isShort } = await readAhead(reader, {
          startFrame: Math.min(...parts.map((part) => part.startFrame)),
          endFrame: Math.max(...parts.map((part) => part.startFrame + part.frames)),
        });
        if (isShort) throw new AppError('source-changed', { fileName: options.fileName });
        for (const segment of kernel.measure(read, parts, frames)) {
          meter.add(segment);
          analysis.add(segment);
          progress.at(segment.startFrame + segment.frames);
        }
      }
      const { readings, series } = meter.finish();
      analysis.finish(series);
      return { format, layout: layout.name, readings, facts: reader.facts };
    } catch (error) {
      analysis.abandon();
      throw error;
    }
  });
}

/** Some segments' frames with all that the meter looks at around them, interleaved, since it can't wait for them. */
async function readAhead(
  reader: PreparedReader,
  { startFrame, endFrame }: { startFrame: number; endFrame: number },
): Promise<{ read: FrameReader; isShort: boolean }> {
  const { sampleRateHz, channels, frames } = reader.format;
  const from = Math.max(0, startFrame - Math.ceil(RUN_IN_SECONDS * sampleRateHz) - FOLLOWING_FRAMES);
  const end = Math.min(frames, endFrame + FOLLOWING_FRAMES);
  const frameBytes = SAMPLE_BYTES * channels;
  const bytes = new Uint8Array((end - from) * frameBytes);
  const packer = new Packer({ bitDepth: 32, channels, isBigEndian: false });
  reader.seek(from);
  while (reader.frame < end) {
    const at = reader.frame;
    const piece = await reader.next();
    if (!piece) break;
    const count = Math.min(piece.frames, end - at);
    packer.pack(piece.channels, count, 1, bytes.subarray((at - from) * frameBytes, (at - from + count) * frameBytes));
  }
  return {
    isShort: reader.frame < end,
    read: (target, frame, count) => {
      const available = Math.max(0, Math.min(count, end - frame));
      const offset = (frame - from) * frameBytes;
      target.set(bytes.subarray(offset, offset + available * frameBytes));
      return available;
    },
  };
}
