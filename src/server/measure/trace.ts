import { AppError } from '@/core/errors/app-error';
import { waveformColumns } from '@/core/loudness/waveform';
import { encodeArrays } from '@/formats/array-bundle';
import type { ServerContext } from '../context';

export interface TraceMeta {
  frames: number;
  sampleRateHz: number;
  channelLabels: string[];
}

/**
 * What the desk draws of a measured source, as a bundle of arrays: `weightedPower`, per channel n `truePeaks<n>` and
 * `truePeakFrames<n>` for every 100 ms, and `min` and `max` of all channels for each of `columns` columns.
 */
export async function traceOf(server: ServerContext, sha256: string, columns: number): Promise<Uint8Array> {
  const report = server.sourceReport(sha256);
  if (!report) throw new AppError('not-found', { what: 'measurement' });
  const { series, waveforms } = await server.analysis(sha256);
  const { frames, sampleRateHz } = report.format;
  const perChannel = waveforms.map((waveform) => waveformColumns(waveform, frames, columns));
  const meta: TraceMeta = { frames, sampleRateHz, channelLabels: report.readings.perChannel.map(({ label }) => label) };
  return encodeArrays({
    meta,
    arrays: {
      weightedPower: series.weightedPower,
      min: extreme(
        perChannel.map(({ min }) => min),
        Math.min,
      ),
      max: extreme(
        perChannel.map(({ max }) => max),
        Math.max,
      ),
      ...Object.fromEntries(series.truePeaks.map((peaks, i) => [`truePeaks${i}`, peaks])),
      ...Object.fromEntries(series.truePeakFrames.map((frames, i) => [`truePeakFrames${i}`, frames])),
    },
  });
}

function extreme(arrays: Float32Array[], choose: (...values: number[]) => number): Float32Array {
  return Float32Array.from(arrays[0] as Float32Array, (_, i) => choose(...arrays.map((array) => array[i] as number)));
}
