import { AppError } from '@/core/errors/app-error';
import { type ColumnSeries, seriesColumns } from '@/core/loudness/series';
import { WAVEFORM_LEVELS, waveformColumns, waveformLevel } from '@/core/loudness/waveform';
import { encodeArrays } from '@/formats/array-bundle';
import type { ServerContext } from '../context';

export interface TraceMeta {
  frames: number;
  sampleRateHz: number;
  channelLabels: string[];
  /** Intervals of 100 ms in each column of the series. */
  binsPerColumn: number;
}

/** More than any screen has pixels; ten minutes are shown whole. */
const SERIES_COLUMNS = 6000;

/**
 * What the desk draws of a measured source, as a bundle of arrays, no larger for a long programme than for a song but
 * for one: `weightedPower` holds every 100 ms, since forecasts are made from it. Of the others, `shortTerm`, `momentary`
 * and per channel n `truePeaks<n>` and `truePeakFrames<n>` hold the greatest of each column of the series, and `min` and
 * `max` of all channels the waveform in `columns` columns.
 */
export async function traceOf(server: ServerContext, sha256: string, columns: number): Promise<Uint8Array> {
  const report = server.sourceReport(sha256);
  if (!report) throw new AppError('not-found', { what: 'measurement' });
  const { frames, sampleRateHz } = report.format;
  const level = waveformLevel(frames, columns);
  const { series, waveforms } = await server.analysis(sha256, async (analysis) => ({
    series: await analysis.series(),
    waveforms: await analysis.waveforms(level),
  }));
  const perChannel = waveforms.map((waveform) => waveformColumns(waveform, frames, columns, WAVEFORM_LEVELS[level]));
  const cut: ColumnSeries = seriesColumns(series, sampleRateHz, SERIES_COLUMNS);
  const meta: TraceMeta = {
    frames,
    sampleRateHz,
    channelLabels: report.readings.perChannel.map(({ label }) => label),
    binsPerColumn: cut.binsPerColumn,
  };
  return encodeArrays({
    meta,
    arrays: {
      weightedPower: Float32Array.from(series.weightedPower),
      shortTerm: cut.shortTermLufs,
      momentary: cut.momentaryLufs,
      min: extreme(
        perChannel.map(({ min }) => min),
        Math.min,
      ),
      max: extreme(
        perChannel.map(({ max }) => max),
        Math.max,
      ),
      ...Object.fromEntries(cut.peaks.map((peaks, i) => [`truePeaks${i}`, peaks])),
      ...Object.fromEntries(cut.frames.map((frames, i) => [`truePeakFrames${i}`, frames])),
    },
  });
}

function extreme(arrays: Float32Array[], choose: (...values: number[]) => number): Float32Array {
  return Float32Array.from(arrays[0] as Float32Array, (_, i) => choose(...arrays.map((array) => array[i] as number)));
}
