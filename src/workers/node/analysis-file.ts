import { open, readFile, rename } from 'node:fs/promises';
import type { Measurement } from '@/core/loudness/programme-meter';
import type { Series } from '@/core/loudness/series';
import type { Waveform } from '@/core/loudness/waveform';
import { decodeArrays, encodeArrays } from '@/formats/array-bundle';

/** What is kept of a measurement to answer later questions: series and waveforms. */
export type Analysis = Pick<Measurement, 'series' | 'waveforms'>;

/** Writes an analysis as a whole: a temporary file, flushed, then renamed. An older one is replaced. */
export async function writeAnalysis(path: string, { series, waveforms }: Analysis): Promise<void> {
  const channels = series.truePeaks.length;
  const bytes = encodeArrays({
    meta: { channels },
    arrays: {
      weightedPower: series.weightedPower,
      ...numbered('truePeaks', series.truePeaks),
      ...numbered('truePeakFrames', series.truePeakFrames),
      ...numbered(
        'min',
        waveforms.map(({ min }) => min),
      ),
      ...numbered(
        'max',
        waveforms.map(({ max }) => max),
      ),
    },
  });
  const temporaryPath = `${path}.${process.pid}.part`;
  const handle = await open(temporaryPath, 'w');
  try {
    await handle.writeFile(bytes);
    await handle.sync();
  } finally {
    await handle.close();
  }
  await rename(temporaryPath, path);
}

export async function readAnalysis(path: string): Promise<Analysis> {
  const file = await readFile(path);
  const buffer = file.buffer.slice(file.byteOffset, file.byteOffset + file.byteLength) as ArrayBuffer;
  const { meta, arrays } = decodeArrays<{ channels: number }>(buffer);
  const all = <T>(name: string) => Array.from({ length: meta.channels }, (_, i) => arrays[`${name}${i}`] as T);
  const series: Series = {
    weightedPower: arrays.weightedPower as Float64Array,
    truePeaks: all<Float32Array>('truePeaks'),
    truePeakFrames: all<Float64Array>('truePeakFrames'),
  };
  const max = all<Float32Array>('max');
  const waveforms: Waveform[] = all<Float32Array>('min').map((min, i) => ({ min, max: max[i] as Float32Array }));
  return { series, waveforms };
}

function numbered<T>(name: string, arrays: readonly T[]): Record<string, T> {
  return Object.fromEntries(arrays.map((array, i) => [`${name}${i}`, array]));
}
