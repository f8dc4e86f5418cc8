import type { LoudnessPlace } from './adm-xml';

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
