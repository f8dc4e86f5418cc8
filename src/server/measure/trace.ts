import type { Readings } from '@/core/loudness/readings';
import { type PeakColumns, peakColumns } from '@/core/loudness/series';
import { WAVEFORM_LEVELS, type Waveform, waveformColumns, waveformLevel } from '@/core/loudness/waveform';
import { encodeArrays } from '@/formats/array-bundle';
import { withAnalysis } from '@/workers/node/analysis-file';
import type { PreparedProgramme } from './prepared';

export interface TraceMeta {
  frames: number;
  sampleRateHz: number;
  channelLabels: string[];
  /** Intervals of 100 ms in each column of the peaks. */
  binsPerColumn: number;
  readings: Readings;
}

/** More than any screen has pixels; ten minutes are shown whole. */
const PEAK_COLUMNS = 6000;

/**
 * What the desk draws of a measured programme, as a bundle of arrays: `weightedPower` of every 100 ms, since forecasts are made
 * from it; per channel n `truePeaks<n>` and `truePeakFrames<n>`, the greatest of each column of the peaks; and `min<n>` and
 * `max<n>`, the waveform in `columns` columns.
 */
export async function traceOf(
  { format: { frames, sampleRateHz }, readings, analysisPath }: PreparedProgramme,
  columns: number,
): Promise<Uint8Array> {
  const level = waveformLevel(frames, columns);
  const { series, waveforms } = await withAnalysis(analysisPath, async (analysis) => ({
    series: await analysis.series(),
    waveforms: await analysis.waveforms(level),
  }));
  const cut: PeakColumns = peakColumns(series, sampleRateHz, PEAK_COLUMNS);
  const meta: TraceMeta = {
    frames,
    sampleRateHz,
    channelLabels: readings.perChannel.map(({ label }) => label),
    binsPerColumn: cut.binsPerColumn,
    readings,
  };
  return encodeArrays({
    meta,
    arrays: {
      weightedPower: Float32Array.from(series.weightedPower),
      ...byChannel(waveforms.map((waveform) => waveformColumns(waveform, frames, columns, WAVEFORM_LEVELS[level]))),
      ...Object.fromEntries(cut.peaks.map((peaks, i) => [`truePeaks${i}`, peaks])),
      ...Object.fromEntries(cut.frames.map((frames, i) => [`truePeakFrames${i}`, frames])),
    },
  });
}

/** Buckets of one level of the waveform, as a bundle of `min<n>` and `max<n>`: as far as there are any. */
export async function waveformTile(
  { analysisPath }: PreparedProgramme,
  tile: { level: number; firstBucket: number; buckets: number },
): Promise<Uint8Array> {
  const { level, firstBucket, buckets } = tile;
  const waveforms = await withAnalysis(analysisPath, (analysis) => analysis.waveformPart(level, firstBucket, buckets));
  return encodeArrays({ meta: {}, arrays: byChannel(waveforms) });
}

function byChannel(waveforms: readonly Waveform[]): Record<string, Float32Array> {
  return Object.fromEntries(
    waveforms.flatMap(({ min, max }, channel) => [
      [`min${channel}`, min],
      [`max${channel}`, max],
    ]),
  );
}
