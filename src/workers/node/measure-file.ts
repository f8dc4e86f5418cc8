import { createHash } from 'node:crypto';
import { findings } from '@/core/findings/findings';
import { channelLayout } from '@/core/loudness/channel-layout';
import { type Measurement, ProgrammeMeter } from '@/core/loudness/programme-meter';
import type { ByteSource } from '@/formats/bytes';
import { readWavHeader } from '@/formats/wav/header';
import { PIECE_FRAMES, WavReader } from '@/formats/wav/reader';
import { MeterKernel } from '@/kernels/meter-kernel';
import type { FileReport } from '../protocol';
import { FileSource } from './file-bytes';
import { ProgressReporter, type RunOptions } from './progress';

export interface MeasureOptions extends RunOptions {
  /** What a person calls the file, for errors. */
  fileName?: string;
  /** Build the waveform as well. */
  waveform?: boolean;
}

/** Measures a WAV file from disk in one pass, and hashes the very bytes on the way. */
export async function measureFile(
  path: string,
  options: MeasureOptions = {},
): Promise<{ report: FileReport; measurement: Measurement }> {
  const file = await FileSource.open(path, options.fileName);
  try {
    const hashing = new HashingSource(file);
    const header = await readWavHeader(hashing, options.fileName ?? path);
    const { format, frameBytes, missingFrames, sizeUnknown } = header;
    const { sampleRateHz, channels } = format;
    const waveform = options.waveform ?? false;
    // Samples are unpacked in the kernel's own memory, right where it measures them.
    const kernel = new MeterKernel({ sampleRateHz, channels, maxFrames: PIECE_FRAMES, waveform }, frameBytes);
    const reader = new WavReader(hashing, header, kernel);
    const meter = new ProgrammeMeter({
      sampleRateHz,
      layout: channelLayout(channels, format.channelMask),
      maxFrames: PIECE_FRAMES,
      waveform,
      createEngine: () => kernel,
    });
    const progress = new ProgressReporter(format.frames, format.sampleRateHz, options);
    for (let piece = await reader.next(); piece; piece = await reader.next()) {
      meter.process(piece.channels, piece.frames);
      progress.at(reader.frame);
    }
    const measurement = meter.finish();
    const { nonFiniteSamples } = reader;
    const facts = { ...format, missingFrames, sizeUnknown, nonFiniteSamples };
    return {
      report: {
        format,
        readings: measurement.readings,
        findings: findings(measurement.readings, facts),
        nonFiniteSamples,
        sizeBytes: file.size,
        sha256: await hashing.finish(),
      },
      measurement,
    };
  } finally {
    await file.close();
  }
}

/**
 * Hashes what is read in order from the first byte on; what was passed over is read for the hash, so that it always
 * speaks of the whole file. Bytes that are read again count once.
 */
class HashingSource implements ByteSource {
  readonly size: number;
  readonly #source: ByteSource;
  readonly #hash = createHash('sha256');
  #hashed = 0;

  constructor(source: ByteSource) {
    this.#source = source;
    this.size = source.size;
  }

  async read(target: Uint8Array, offset: number): Promise<number> {
    const read = await this.#source.read(target, offset);
    await this.#hashUpTo(offset);
    const fresh = this.#hashed - offset;
    if (fresh < read) {
      this.#hash.update(target.subarray(fresh, read));
      this.#hashed = offset + read;
    }
    return read;
  }

  async finish(): Promise<string> {
    await this.#hashUpTo(this.size);
    return this.#hash.digest('hex');
  }

  async #hashUpTo(offset: number): Promise<void> {
    const piece = new Uint8Array(Math.min(1 << 20, Math.max(0, offset - this.#hashed)));
    while (this.#hashed < offset) {
      const wanted = piece.subarray(0, Math.min(piece.length, offset - this.#hashed));
      const read = await this.#source.read(wanted, this.#hashed);
      if (read === 0) return;
      this.#hash.update(wanted.subarray(0, read));
      this.#hashed += read;
    }
  }
}
