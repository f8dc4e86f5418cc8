import type { Measurement } from '../loudness/programme';
import { formatLevel, formatTime } from '../units/format';
import { channelFindings } from './channel-findings';
import { edgeFindings } from './edge-findings';
import type { Finding } from './finding';
import type { SourceFacts } from './source-facts';

/** A file peaking within this of full scale was brought there on purpose. */
const FULL_SCALE_NEAR_DB = -0.005;

/** All findings on a measured source, worst first. */
export function findings({ readings, series, pair }: Measurement, facts: SourceFacts): Finding[] {
  const found: Finding[] = [];
  const add = (severity: Finding['severity'], code: Finding['code'], message: string) =>
    found.push({ code, severity, message });
  const seconds = (frames: number) => formatTime(frames / facts.sampleRateHz, { milliseconds: true });

  if (facts.nonFiniteSamples > 0) {
    add(
      'breach',
      'non-finite-samples',
      `${count(facts.nonFiniteSamples, 'sample is', 'samples are')} not a number or infinite. They were read as silence; export the file again.`,
    );
  }
  if (facts.missingFrames > 0) {
    add(
      'breach',
      'truncated',
      `The header promises ${seconds(facts.frames + facts.missingFrames)}, the file holds ${seconds(facts.frames)}: the last ${seconds(facts.missingFrames)} are missing. What is there was read.`,
    );
  }
  if (readings.clippedRuns > 0) {
    add(
      'breach',
      'clipped-runs',
      `${count(readings.clippedRuns, 'clipped run', 'clipped runs')}: samples cut off at full scale, which no gain brings back. Ask for a mix with more headroom.`,
    );
  }
  if (facts.decodeErrors > 0) {
    add(
      'breach',
      'decode-errors',
      `The file is damaged: its decoder complained ${count(facts.decodeErrors, 'time', 'times')}. What could be made of it was read; ask for the file again.`,
    );
  }
  found.push(...channelFindings(readings, pair));
  if (facts.bitDepth === null) {
    const rate = facts.bitRateBps === null ? '' : ` at ${Math.round(facts.bitRateBps / 1000)} kb/s`;
    add(
      'advice',
      'lossy-source',
      `Lossy: ${facts.codec}${rate}. What coding has taken does not come back, and coding once more takes again. Ask for the file that it was made from.`,
    );
  }
  if (facts.track) {
    add(
      'advice',
      'several-tracks',
      `The file holds ${facts.track.of} sound tracks; this is number ${facts.track.number}.`,
    );
  }
  if (facts.sizeUnknown) {
    add(
      'advice',
      'size-unknown',
      'The header states no length, as after an interrupted recording. Read to the end of the file.',
    );
  }
  if (readings.samplePeakDbfs === null) {
    add('advice', 'silent', 'Digital silence from beginning to end: there is no loudness to measure.');
  } else if (facts.frames < 0.4 * facts.sampleRateHz) {
    add('advice', 'too-short', 'Shorter than 400 ms, the gating block: integrated loudness is not defined.');
  } else if (readings.integratedLufs === null) {
    add('advice', 'silent', 'Below the gate of −70 LUFS from beginning to end: there is no integrated loudness.');
  }
  if (readings.samplePeakDbfs !== null) {
    if (facts.sampleFormat === 'float' && readings.samplePeakDbfs > 0.0005) {
      add(
        'advice',
        'beyond-full-scale',
        `The float samples reach ${formatLevel(readings.samplePeakDbfs, 'dBFS')}. They are whole: turn the file down before it is written as integers.`,
      );
    } else if (readings.samplePeakDbfs >= FULL_SCALE_NEAR_DB && readings.clippedRuns === 0) {
      add(
        'advice',
        'normalised-to-full-scale',
        'The highest sample stands at full scale with no clipped run: the file was only normalised. Turned down, it is whole.',
      );
    }
  }
  found.push(...edgeFindings(readings, series, facts));
  return found.sort((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity));
}

const SEVERITIES = ['breach', 'advice'] as const;

function count(number: number, one: string, many: string): string {
  return `${number} ${number === 1 ? one : many}`;
}
