import type { Inspection } from '../inspection/inspection';
import type { Measurement } from '../loudness/programme';
import { formatTime } from '../units/format';
import { channelFindings } from './channel-findings';
import { edgeFindings } from './edge-findings';
import { advice, breach, type Finding } from './finding';
import { inspectionFindings } from './inspection-findings';
import { levelFindings } from './level-findings';
import type { SourceFacts } from './source-facts';

/** All findings on a measured and inspected source, worst first. */
export function findings(measurement: Measurement, inspection: Inspection, facts: SourceFacts): Finding[] {
  const { readings, series } = measurement;
  const found = [
    ...fileFindings(facts),
    ...levelFindings(measurement, facts),
    ...channelFindings(measurement, inspection.pair, facts.frames),
    ...inspectionFindings(readings, inspection, facts),
    ...edgeFindings(readings, series, facts),
  ];
  return found.sort((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity));
}

const SEVERITIES = ['breach', 'advice'] as const;

/** What the file itself told while it was read. */
function fileFindings(facts: SourceFacts): Finding[] {
  const found: Finding[] = [];
  const seconds = (frames: number) => formatTime(frames / facts.sampleRateHz, { milliseconds: true });
  if (facts.nonFiniteSamples > 0) {
    found.push(
      breach(
        'non-finite-samples',
        `${count(facts.nonFiniteSamples, 'sample is', 'samples are')} not a number, or infinite; read as silence. Export the file again.`,
      ),
    );
  }
  if (facts.missingFrames > 0) {
    found.push(
      breach(
        'truncated',
        `The header promises ${seconds(facts.frames + facts.missingFrames)}, the file holds ${seconds(facts.frames)}: the last ${seconds(facts.missingFrames)} are missing. The rest was read.`,
        [{ startFrame: facts.frames, frames: facts.missingFrames, channel: null }],
      ),
    );
  }
  if (facts.decodeErrors > 0) {
    found.push(
      breach(
        'decode-errors',
        `The file is damaged: ${count(facts.decodeErrors, 'decoding error', 'decoding errors')}. What could be decoded was read; ask for the file again.`,
      ),
    );
  }
  if (facts.treatedBefore !== null) {
    found.push(
      advice(
        'treated-before',
        `This is a delivery written by Opsimeter, already treated once (${facts.treatedBefore}). Work from its source, so that nothing is applied twice.`,
      ),
    );
  }
  if (facts.bitDepth === null) {
    const rate = facts.bitRateBps === null ? '' : ` at ${Math.round(facts.bitRateBps / 1000)} kb/s`;
    found.push(
      advice(
        'lossy-source',
        `Lossy: ${facts.codec}${rate}. What coding removed is lost, and encoding again removes more. Ask for the original.`,
      ),
    );
  }
  if (facts.track) {
    found.push(
      advice('several-tracks', `The file holds ${facts.track.of} sound tracks; this is track ${facts.track.number}.`),
    );
  }
  if (facts.sizeUnknown) {
    found.push(
      advice(
        'size-unknown',
        'The header states no length, as after an interrupted recording; read to the end of the file.',
      ),
    );
  }
  return found;
}

function count(number: number, one: string, many: string): string {
  return `${number} ${number === 1 ? one : many}`;
}
