import { admText } from './adm';
import { type LoudnessPlace, readAdmDefinition } from './adm-xml';

/** What an audio definition states of the loudness of a programme or content; null of what was not measured. */
export interface AdmLoudness {
  integratedLufs: number | null;
  loudnessRangeLu: number | null;
  truePeakDbtp: number | null;
  maxMomentaryLufs: number | null;
  maxShortTermLufs: number | null;
}

/** By the names of ITU-R BS.2076-2 (from memory), in its order. */
const ELEMENTS: readonly (readonly [name: string, of: keyof AdmLoudness])[] = [
  ['integratedLoudness', 'integratedLufs'],
  ['loudnessRange', 'loudnessRangeLu'],
  ['maxTruePeak', 'truePeakDbtp'],
  ['maxMomentary', 'maxMomentaryLufs'],
  ['maxShortTerm', 'maxShortTermLufs'],
];

/** As long as any that is stated. */
const WIDEST: AdmLoudness = {
  integratedLufs: -100,
  loudnessRangeLu: -100,
  truePeakDbtp: -100,
  maxMomentaryLufs: -100,
  maxShortTermLufs: -100,
};

/**
 * An `axml` with room for the loudness of every programme, and of every content that states some: `withMeasured` fills it in, or takes it away.
 *
 * @throws AppError `adm-damaged`
 */
export function withLoudnessRoom(axml: Uint8Array, fileName: string): Uint8Array {
  const { text, bytesOf } = admText(axml);
  return bytesOf(withLoudness(text, placesIn(text, fileName), (place) => (isStated(place) ? WIDEST : undefined)));
}

/** Programmes state their loudness, and contents where they did before. */
export function isStated({ element, stated }: LoudnessPlace): boolean {
  return element === 'audioProgramme' || stated.length > 0;
}

/**
 * An `axml` that had room, of just that length, with what was measured.
 *
 * @param measured by ID; what is not in it goes
 * @throws AppError `adm-damaged`
 */
export function withMeasured(
  axml: Uint8Array,
  measured: ReadonlyMap<string, AdmLoudness>,
  fileName: string,
): Uint8Array {
  const { text, bytesOf } = admText(axml);
  const changed = withLoudness(text, placesIn(text, fileName), ({ id }) => measured.get(id));
  // The rest of the room is white space behind the last element.
  return bytesOf(changed.padEnd(text.length));
}

function placesIn(text: string, fileName: string): LoudnessPlace[] {
  return readAdmDefinition(text, [], fileName).loudnessPlaces;
}

/**
 * The XML of a definition that states other loudness. Every other character stays as it is.
 *
 * @param places where it is stated, as they were read from the same text
 * @param loudnessOf what a programme or content is to state; undefined where what it states is to go
 */
export function withLoudness(
  text: string,
  places: readonly LoudnessPlace[],
  loudnessOf: (place: LoudnessPlace) => AdmLoudness | undefined,
): string {
  const edits = places.flatMap((place) => {
    const loudness = loudnessOf(place);
    const stated = loudness && elementOf(loudness, place.prefix);
    const [first, ...more] = place.stated;
    if (!first) return stated ? [{ start: place.insertAt, end: place.insertAt, by: stated }] : [];
    return [{ ...first, by: stated ?? '' }, ...more.map((own) => ({ ...own, by: '' }))];
  });
  return edits
    .sort((a, b) => b.start - a.start)
    .reduce((changed, { start, end, by }) => changed.slice(0, start) + by + changed.slice(end), text);
}

function elementOf(loudness: AdmLoudness, prefix: string): string {
  const values = ELEMENTS.flatMap(([name, of]) => {
    const value = loudness[of];
    return value === null ? [] : [`<${prefix}${name}>${value.toFixed(2)}</${prefix}${name}>`];
  });
  return `<${prefix}loudnessMetadata loudnessMethod="ITU-R BS.1770">${values.join('')}</${prefix}loudnessMetadata>`;
}
