import type { Measurement } from '../loudness/programme';
import { formatLevel, formatTime } from '../units/format';
import { advice, breach, type Finding } from './finding';
import type { SourceFacts } from './source-facts';

/** A file peaking within this of full scale was brought there on purpose. */
const FULL_SCALE_NEAR_DB = -0.005;

/** What is wrong with how loud a programme is: silent, clipped, or at its limit. */
export function levelFindings(measurement: Measurement, facts: SourceFacts): Finding[] {
  const { samplePeakDbfs, integratedLufs, clippedRuns } = measurement.readings;
  if (samplePeakDbfs === null) {
    return [advice('silent', 'Digital silence throughout: there is no loudness to measure.')];
  }
  const found: Finding[] = [];
  if (clippedRuns > 0) found.push(clipped(measurement, facts));
  if (facts.frames < 0.4 * facts.sampleRateHz) {
    found.push(advice('too-short', 'Shorter than 400 ms, the gating block: integrated loudness is not defined.'));
  } else if (integratedLufs === null) {
    found.push(advice('silent', 'Below the gate of −70 LUFS throughout: there is no integrated loudness.'));
  }
  if (facts.sampleFormat === 'float' && samplePeakDbfs > 0.0005) {
    found.push(
      advice(
        'beyond-full-scale',
        `Float samples reach ${formatLevel(samplePeakDbfs, 'dBFS')}, unclipped. Turn the file down before it is written as integers.`,
      ),
    );
  } else if (samplePeakDbfs >= FULL_SCALE_NEAR_DB && clippedRuns === 0) {
    found.push(
      advice(
        'normalised-to-full-scale',
        'Sample peak at full scale without clipping: the file was normalised. Turning it down loses nothing.',
      ),
    );
  }
  return found;
}

/** How many, in which channels, the longest and where it is. */
function clipped({ readings, clippedRuns }: Measurement, { sampleRateHz }: SourceFacts): Finding {
  const { perChannel } = readings;
  const places = clippedRuns
    .flatMap((runs, i) => runs.map((run) => ({ ...run, channel: perChannel[i]?.label ?? null })))
    .sort((a, b) => a.startFrame - b.startFrame);
  const longest = places.reduce(
    (most, run) => (run.frames > most.frames ? run : most),
    places[0] as (typeof places)[0],
  );
  const counts = perChannel.flatMap(({ label, clippedRuns: n }) => (n > 0 ? [`${label} ${n}`] : []));
  const runs = readings.clippedRuns === 1 ? 'clipped run' : 'clipped runs';
  return breach(
    'clipped-runs',
    `${readings.clippedRuns} ${runs} (${counts.join(', ')}), the longest ${longest.frames} samples at ${formatTime(longest.startFrame / sampleRateHz, { milliseconds: true })}: clipped at full scale, which no gain repairs. Ask for a mix with more headroom.`,
    places,
  );
}
