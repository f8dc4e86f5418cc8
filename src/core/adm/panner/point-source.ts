import { type RenderLayout, type Speaker, speakersOf } from '../render-layouts';
import { convexHull, inOrder } from './hull';
import { quad, type Region, triplet, virtualNgon } from './regions';
import { directionOf, normalised, type Vector } from './vector';

/** The gain of each channel of a layout, for a source in a direction. */
export type Panner = (azimuthDegrees: number, elevationDegrees: number) => number[];

/** A place that gives to a loudspeaker of the layout: itself, or one above or below it where there is none. */
interface Place {
  direction: Vector;
  output: number;
}

/** Upper and lower loudspeakers stand beyond this. */
const LAYER_FROM_DEGREES = 10;
const LAYER_DEGREES = 30;
/** A layer is taken to cover so much more than its outermost loudspeakers. */
const COVERED_DEGREES = 40;
const BOTTOM: Vector = [0, 0, -1];
const TOP: Vector = [0, 0, 1];

/**
 * How sources are given to the loudspeakers of a layout: the point source panner of ITU-R BS.2127, 6.1 (from memory). LFE channels get nothing.
 *
 * The gains of a direction have unit power, but for stereo, where sources behind are up to 3 dB softer.
 */
export function pointSourcePanner(layout: RenderLayout): Panner {
  const made = PANNERS.get(layout) ?? (layout === 'stereo' ? stereoPanner() : surroundPanner(speakersOf(layout)));
  PANNERS.set(layout, made);
  return made;
}

/** Finding the facets of a layout takes longer than panning a thousand sources: it is done once. */
const PANNERS = new Map<RenderLayout, Panner>();

function surroundPanner(speakers: readonly Speaker[]): Panner {
  const regions = regionsOf(placesOf(speakers));
  return (azimuthDegrees, elevationDegrees) => {
    const direction = directionOf(azimuthDegrees, elevationDegrees);
    const gains = new Array<number>(speakers.length).fill(0);
    for (const region of regions) {
      const found = region.gains(direction);
      if (!found) continue;
      region.outputs.forEach((output, i) => {
        gains[output] = (gains[output] as number) + (found[i] as number);
      });
      return normalised(gains);
    }
    throw new RangeError(`no loudspeakers surround ${azimuthDegrees}°, ${elevationDegrees}°`);
  };
}

/** The loudspeakers, and places above and below those of the middle layer that have none near them. */
function placesOf(speakers: readonly Speaker[]): Place[] {
  const own = speakers.flatMap(({ azimuthDegrees, elevationDegrees, isLfe }, output) =>
    isLfe ? [] : [{ azimuthDegrees, elevationDegrees, output }],
  );
  const middle = own.filter(({ elevationDegrees }) => Math.abs(elevationDegrees) < LAYER_FROM_DEGREES);
  const added = [LAYER_DEGREES, -LAYER_DEGREES].flatMap((elevationDegrees) => {
    const layer = own.filter((speaker) => Math.sign(elevationDegrees) * speaker.elevationDegrees > LAYER_FROM_DEGREES);
    const covered = layer.map(({ azimuthDegrees }) => Math.abs(azimuthDegrees) + COVERED_DEGREES);
    const from = Math.max(0, ...covered);
    return middle
      .filter(({ azimuthDegrees }) => Math.abs(azimuthDegrees) >= from)
      .map((speaker) => ({ ...speaker, elevationDegrees }));
  });
  return [...own, ...added].map(({ azimuthDegrees, elevationDegrees, output }) => ({
    direction: directionOf(azimuthDegrees, elevationDegrees),
    output,
  }));
}

/** The facets between all places; around the poles, where no loudspeaker stands, what would go there is shared. */
function regionsOf(places: readonly Place[]): Region[] {
  const poles = [TOP, BOTTOM];
  const directions = [...places.map(({ direction }) => direction), ...poles];
  const facets = convexHull(directions);
  const outputOf = (index: number) => (places[index] as Place).output;
  const cornersOf = (facet: readonly number[]) => facet.map((index) => directions[index] as Vector);
  const isPole = (index: number) => index >= places.length;

  const between = facets
    .filter((facet) => !facet.some(isPole))
    .map((facet) => {
      const corners = cornersOf(facet);
      const outputs = facet.map(outputOf);
      const [a, b, c, d, ...more] = corners as [Vector, Vector, Vector, ...Vector[]];
      if (d === undefined) return triplet(outputs, [a, b, c]);
      if (more.length > 0) throw new RangeError('a facet has more than four corners');
      return quad(outputs, [a, b, c, d]);
    });
  const around = poles.map((middle, i) => {
    const pole = places.length + i;
    const ring = new Set(facets.filter((facet) => facet.includes(pole)).flat());
    ring.delete(pole);
    const ordered = inOrder(directions, [...ring]);
    return virtualNgon(ordered.map(outputOf), cornersOf(ordered), middle);
  });
  return [...between, ...around];
}

const CENTRE_SHARE = Math.sqrt(3) / 3;
const REAR_SHARE = Math.SQRT1_2;

/** Stereo is 5.0 mixed down, with the power that its front and rear ask for (ITU-R BS.2127, 6.1.2.4, from memory). */
function stereoPanner(): Panner {
  const surround = pointSourcePanner('5.1');
  return (azimuthDegrees, elevationDegrees) => {
    const [left, right, centre, , leftRear, rightRear] = surround(azimuthDegrees, elevationDegrees) as Gains51;
    const front = Math.max(left, right, centre);
    const rear = Math.max(leftRear, rightRear);
    const share = rear / (front + rear);
    return normalised([
      left + CENTRE_SHARE * centre + REAR_SHARE * leftRear,
      right + CENTRE_SHARE * centre + REAR_SHARE * rightRear,
    ]).map((gain) => gain * 0.5 ** (share / 2));
  };
}

/** In the order of our 5.1. */
type Gains51 = [left: number, right: number, centre: number, lfe: number, leftRear: number, rightRear: number];
