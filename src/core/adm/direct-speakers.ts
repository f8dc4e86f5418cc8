import type { AdmBlock, AdmChannel, Bounded } from './model';
import type { Panner } from './panner/point-source';
import type { Speaker } from './render-layouts';

/** The bandwidth of an LFE channel (ITU-R BS.2127, 8, from memory). */
const LFE_HZ = 200;
/** Degrees, or shares of the distance, that a place may be beside another and be the same. */
const SAME_PLACE = 1e-5;
const LABEL = /^(?:urn:itu:bs:2051:[0-9]+:speaker:)?(.*)$/;
/** What LFE channels are called beside their name in ITU-R BS.2051. */
const LFE_LABELS: Readonly<Record<string, string>> = { LFE: 'LFE1', LFEL: 'LFE1', LFER: 'LFE2' };

/**
 * Gains of a channel that is meant for a loudspeaker (ITU-R BS.2127-0, 8, from memory): to that of its name; or else to the one that stands within
 * its bounds; or else as a source in its direction. LFE goes to LFE alone, and where there is none, nowhere.
 *
 * @returns for each channel of the layout; without the block's own gain
 */
export function directGains(
  { lowPassHz }: AdmChannel,
  block: AdmBlock,
  speakers: readonly Speaker[],
  panner: Panner,
): number[] {
  const labels = block.speakerLabels.map(speakerName);
  const isLfe = (lowPassHz !== null && lowPassHz <= LFE_HZ) || labels.some((label) => label.startsWith('LFE'));
  const alone = (output: number) => speakers.map((_, i) => (i === output ? 1 : 0));
  for (const label of labels) {
    const named = speakers.findIndex(({ name, isLfe: own }) => name === label && own === isLfe);
    if (named >= 0) return alone(named);
  }
  if (isLfe) return alone(speakers.findIndex((speaker) => speaker.isLfe));
  const there = nearestWithin(block, speakers);
  return there === undefined ? panner(block.azimuth.value, block.elevation.value) : alone(there);
}

function speakerName(stated: string): string {
  const name = LABEL.exec(stated)?.[1] ?? stated;
  return LFE_LABELS[name] ?? name;
}

/** Of the loudspeakers within a block's bounds, the one nearest to its place; undefined where there is none, or two are as near. */
function nearestWithin({ azimuth, elevation, distance }: AdmBlock, speakers: readonly Speaker[]): number | undefined {
  if (!isWithin(1, distance)) return undefined;
  const found = speakers
    .flatMap(({ azimuthDegrees, elevationDegrees, isLfe }, output) =>
      !isLfe && isAngleWithin(azimuthDegrees, azimuth) && isWithin(elevationDegrees, elevation)
        ? [{ output, away: Math.hypot(turn(azimuthDegrees - azimuth.value), elevationDegrees - elevation.value) }]
        : [],
    )
    .sort((a, b) => a.away - b.away);
  const [first, second] = found;
  const isAlone = second === undefined || second.away - (first?.away ?? 0) > SAME_PLACE;
  return isAlone ? first?.output : undefined;
}

function isWithin(value: number, { least, most }: Bounded): boolean {
  return value >= least - SAME_PLACE && value <= most + SAME_PLACE;
}

/** Bounds of azimuths go from the least to the left until the most: from 170° to −170°, those behind. */
function isAngleWithin(degrees: number, { least, most }: Bounded): boolean {
  const width = (((most - least) % 360) + 360) % 360;
  const along = (((degrees - least + SAME_PLACE) % 360) + 360) % 360;
  return along <= width + 2 * SAME_PLACE;
}

/** An angle, brought to what it is from −180° to 180°. */
function turn(degrees: number): number {
  return ((((degrees + 180) % 360) + 360) % 360) - 180;
}
