import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import { ProgrammeMeter } from '@/core/loudness/programme';
import { FOLLOWING_FRAMES, SEGMENT_SECONDS, type Segment, segmentAt, segmentCount } from '@/core/loudness/segment';
import { readPcmHeader } from '@/formats/open-pcm';
import type { PcmHeader } from '@/formats/pcm-header';
import { MeterKernel } from '@/kernels/meter-kernel';
import type { FileReport } from '../protocol';
import { AnalysisWriter } from './analysis-file';
import { FileSource } from './file-bytes';
import { readerOf } from './help-measuring';
import { reportOf } from './measure-file';

/** Waveforms wait in memory until the length of the file is known: some 10 MB an hour and pair of channels. */
const MOST_SECONDS = 4 * 3600;

/** Measures a file while it grows, so that its readings are there when it ends: those of measuring all of it then. */
export class FileFollower {
  readonly #path: string;
  readonly #fileName: string;
  readonly #header: PcmHeader;
  readonly #file: FileSource;
  readonly #kernel: MeterKernel;
  readonly #meter: ProgrammeMeter;
  readonly #waveforms: Segment[] = [];
  #nonFiniteSamples = 0;
  #measured = 0;

  private constructor(path: string, fileName: string, file: FileSource, header: PcmHeader) {
    const { sampleRateHz, channels, channelMask } = header.format;
    this.#path = path;
    this.#fileName = fileName;
    this.#file = file;
    this.#header = header;
    this.#kernel = new MeterKernel({ sampleRateHz, channels, encoding: header.encoding });
    this.#meter = new ProgrammeMeter({ sampleRateHz, layout: channelLayout(channels, channelMask) });
  }

  /** @param path of a file that has frames already, and gets more at its end */
  static async open(path: string, fileName: string): Promise<FileFollower> {
    const file = await FileSource.open(path, fileName);
    try {
      return new FileFollower(path, fileName, file, await readPcmHeader(file, fileName));
    } catch (error) {
      await file.close();
      throw error;
    }
  }

  /** Measures what has become whole. @param frames that the file has by now */
  grown(frames: number): void {
    const { sampleRateHz } = this.#header.format;
    const whole = SEGMENT_SECONDS * sampleRateHz;
    while (
      (this.#measured + 1) * whole + FOLLOWING_FRAMES <= frames &&
      this.#measured * SEGMENT_SECONDS < MOST_SECONDS
    ) {
      this.#measure(Number.POSITIVE_INFINITY);
    }
  }

  /**
   * Measures what is left once nothing is added any more, and closes the file.
   *
   * @param analysisPath where series and waveform are saved
   * @throws AppError `too-long-to-follow` where it has to be measured as a whole
   */
  async finish(analysisPath: string): Promise<Omit<FileReport, 'sha256'>> {
    const file = await FileSource.open(this.#path, this.#fileName);
    try {
      const header = await readPcmHeader(file, this.#fileName);
      const { sampleRateHz, frames } = header.format;
      if (frames > MOST_SECONDS * sampleRateHz) throw new AppError('too-long-to-follow', { fileName: this.#fileName });
      for (const count = segmentCount(sampleRateHz, frames); this.#measured < count; ) this.#measure(frames);
      const measurement = this.#meter.finish();
      const report = await reportOf(file, header, measurement, { nonFiniteSamples: this.#nonFiniteSamples });
      const analysis = new AnalysisWriter(analysisPath, header.format);
      try {
        for (const segment of this.#waveforms) analysis.add(segment);
        analysis.finish(measurement.series);
      } catch (error) {
        analysis.abandon();
        throw error;
      }
      return report;
    } finally {
      await file.close();
      await this.close();
    }
  }

  close(): Promise<void> {
    return this.#file.close();
  }

  #measure(programmeFrames: number): void {
    const read = readerOf(this.#file, this.#header, this.#fileName);
    const part = segmentAt(this.#measured, this.#header.format.sampleRateHz, programmeFrames);
    for (const segment of this.#kernel.measure(read, [part], programmeFrames)) {
      if (segment.frames !== part.frames) throw new AppError('source-changed', { fileName: this.#fileName });
      this.#meter.add(segment);
      this.#nonFiniteSamples += segment.nonFiniteSamples;
      this.#waveforms.push({ ...segment, channels: segment.channels.map(waveformOnly) });
    }
    this.#measured++;
  }
}

const NOTHING = new Float64Array(0);

/** What of a channel is needed once it was measured. */
function waveformOnly(channel: Segment['channels'][number]): Segment['channels'][number] {
  return { ...channel, ticks: NOTHING, tickSquares: NOTHING, truePeaks: NOTHING, truePeakFrames: NOTHING };
}
