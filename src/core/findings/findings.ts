import type { Readings } from '../loudness/readings';
import { bandEdge } from './band-edge';
import { beyondFullScale } from './beyond-full-scale';
import { clickAtEdge } from './click-at-edge';
import { clippedRuns } from './clipped-runs';
import { dcOffset } from './dc-offset';
import { decodeErrors } from './decode-errors';
import { endsSounding } from './ends-sounding';
import type { Evidence } from './evidence';
import type { Finding, FindingKind } from './finding';
import { invertedPolarity } from './inverted-polarity';
import { lossySource } from './lossy-source';
import { noiseFloor } from './noise-floor';
import { nonFiniteSamples } from './non-finite-samples';
import { normalisedToFullScale } from './normalised-to-full-scale';
import { otherRate } from './other-rate';
import { outOfBalance } from './out-of-balance';
import { sameChannels } from './same-channels';
import { severalTracks } from './several-tracks';
import { silenceAhead } from './silence-ahead';
import { silenceBehind } from './silence-behind';
import { silent } from './silent';
import { silentChannel } from './silent-channel';
import { sizeUnknown } from './size-unknown';
import { tooShort } from './too-short';
import { tracksOfObjects } from './tracks-of-objects';
import { treatedBefore } from './treated-before';
import { truncated } from './truncated';
import { unusedBits } from './unused-bits';
import { upsampled } from './upsampled';
import { worksAgainst } from './works-against';

/** Every kind of finding, in the order in which they are said among others as grave. */
export const FINDINGS: readonly FindingKind[] = [
  nonFiniteSamples,
  truncated,
  decodeErrors,
  treatedBefore,
  lossySource,
  severalTracks,
  tracksOfObjects,
  sizeUnknown,
  silent,
  clippedRuns,
  tooShort,
  beyondFullScale,
  normalisedToFullScale,
  silentChannel,
  sameChannels,
  invertedPolarity,
  worksAgainst,
  outOfBalance,
  dcOffset,
  bandEdge,
  upsampled,
  unusedBits,
  clickAtEdge,
  noiseFloor,
  silenceAhead,
  silenceBehind,
  endsSounding,
  otherRate,
];

const SEVERITIES = ['breach', 'advice'] as const;

/** A report of a file, as far as findings are made from it. */
export interface FoundIn {
  readings: Readings;
  /** Absent of files that were measured before there was any. */
  evidence?: Evidence | undefined;
  /** As they were found then; of such files only. */
  findings?: Finding[] | undefined;
}

/**
 * All findings on a measured and inspected file, worst first. They are made anew whenever they are asked for.
 *
 * @param jobRates how many programmes of its job have which sample rate, this one included
 */
export function findingsOf(report: FoundIn, jobRates: ReadonlyMap<number, number> | null = null): Finding[] {
  const { readings, evidence } = report;
  if (!evidence) return report.findings ?? [];
  const found = FINDINGS.flatMap(({ code, look }): Finding[] => {
    const one = look({ ...evidence, readings, jobRates });
    return one ? [{ code, ...one }] : [];
  });
  return found.sort((a, b) => SEVERITIES.indexOf(a.severity) - SEVERITIES.indexOf(b.severity));
}

/** The kind of a finding; undefined of one that there is no more. */
export function kindOf({ code }: Pick<Finding, 'code'>): FindingKind | undefined {
  return FINDINGS.find((kind) => kind.code === code);
}
