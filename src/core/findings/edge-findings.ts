import { powerToLufs } from '../loudness/gating';
import type { Readings } from '../loudness/readings';
import type { Series } from '../loudness/series';
import { dbToAmplitude } from '../units/decibel';
import { formatLevel, formatTime } from '../units/format';
import { BINS_PER_SECOND, gridFrame } from '../units/frames';
import { advice, type Finding } from './finding';
import type { SourceFacts } from './source-facts';

/** A peak below this is nothing that is heard (common practice, no source). */
const SOUND_DBTP = -60;
/** Longer than this is worth knowing, ahead of the first sound and behind the last (common practice, no source). */
const LEAST_AHEAD_BINS = 10;
const LEAST_BEHIND_BINS = 50;
/** An end that is no more than this below the programme has not faded (common practice, no source). */
const ENDS_WITHIN_LU = 15;

/** What is wrong at the beginning and the end, by the true peaks and powers of every 100 ms. */
export function edgeFindings(
  { integratedLufs }: Readings,
  { truePeaks, weightedPower }: Series,
  { frames, sampleRateHz }: SourceFacts,
): Finding[] {
  if (integratedLufs === null) return [];
  const least = dbToAmplitude(SOUND_DBTP);
  const bins = truePeaks[0]?.length ?? 0;
  const sounds = (bin: number) => truePeaks.some((peaks) => (peaks[bin] as number) >= least);
  let first = 0;
  while (first < bins && !sounds(first)) first++;
  let last = bins - 1;
  while (last > first && !sounds(last)) last--;
  const found: Finding[] = [];
  const frameOf = (bin: number) => Math.min(frames, gridFrame(bin, BINS_PER_SECOND, sampleRateHz));
  const time = (bin: number) => formatTime(frameOf(bin) / sampleRateHz, { milliseconds: true });
  const place = (from: number, to: number) => ({
    startFrame: frameOf(from),
    frames: frameOf(to) - frameOf(from),
    channel: null,
  });
  if (first >= LEAST_AHEAD_BINS) {
    found.push(
      advice('silence-ahead', `Silence at the start, until ${time(first)}. Is that intended?`, [place(0, first)]),
    );
  }
  if (bins - 1 - last >= LEAST_BEHIND_BINS) {
    found.push(
      advice('silence-behind', `Silence at the end, from ${time(last + 1)} to ${time(bins)}.`, [place(last + 1, bins)]),
    );
  }
  const ending = powerToLufs(weightedPower[weightedPower.length - 1] ?? 0);
  if (last === bins - 1 && ending !== null && ending > integratedLufs - ENDS_WITHIN_LU) {
    found.push(
      advice(
        'ends-sounding',
        `Ends abruptly, at ${formatLevel(ending, 'LUFS')} in the last 100 ms; the tail may be cut.`,
        [place(last, bins)],
      ),
    );
  }
  return found;
}
