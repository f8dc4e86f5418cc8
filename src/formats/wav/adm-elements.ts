/** Elements of an audio definition's XML (ITU-R BS.2076-2, from memory), and what of the model each of them is. */
import {
  ADM_TYPES,
  type AdmBlock,
  type AdmChannel,
  type AdmObject,
  type AdmType,
  type Bounded,
  ROUNDED_SECONDS,
  type Unsupported,
} from '@/core/adm/model';

export interface Element {
  name: string;
  attributes: Readonly<Record<string, string>>;
  text: string;
  children: Element[];
}

/** IDs are hexadecimal numbers behind their kind: whether their letters are small says nothing. */
const asId = (text: string) => text.trim().toUpperCase();
export const idOf = ({ attributes }: Pick<Element, 'attributes'>, name: string) => asId(attributes[name] ?? '');
const all = ({ children }: Element, name: string) => children.filter((child) => child.name === name);
export const refs = (element: Element, name: string) => all(element, name).map(({ text }) => asId(text));

export function choicesOf(element: Element): Unsupported[] {
  return refs(element, 'alternativeValueSetIDRef').length > 0 ? ['alternative-values'] : [];
}

/** By its words, or by its number. */
export function typeOf({ attributes }: Element): AdmType | null {
  const byNumber = ADM_TYPES[Number.parseInt(attributes.typeLabel ?? '', 10) - 1];
  return ADM_TYPES.find((type) => type === attributes.typeDefinition) ?? byNumber ?? null;
}

export function objectOf(element: Element): AdmObject {
  const values = new ValueReader();
  const offsets = all(element, 'positionOffset').map(({ text }) => values.number(text));
  const isMuted = values.flag(all(element, 'mute')[0]);
  const gain = values.gain(all(element, 'gain')[0]);
  const object = {
    id: idOf(element, 'audioObjectID'),
    name: element.attributes.audioObjectName ?? '',
    startSeconds: values.time(element.attributes.start),
    durationSeconds: values.time(element.attributes.duration),
    gain: isMuted ? 0 : gain,
    objectIds: refs(element, 'audioObjectIDRef'),
    packIds: refs(element, 'audioPackFormatIDRef'),
    trackUids: refs(element, 'audioTrackUIDRef'),
    complementaryIds: refs(element, 'audioComplementaryObjectIDRef'),
  };
  return {
    ...object,
    unsupported: [...values.unsupported, ...(offsets.some(Boolean) ? ['position-offset' as const] : [])],
  };
}

export function channelOf(element: Element, blocks: readonly AdmBlock[]): AdmChannel {
  const lowPass = all(element, 'frequency').find(({ attributes }) => attributes.typeDefinition === 'lowPass');
  const hz = Number.parseFloat(lowPass?.text ?? '');
  return {
    id: idOf(element, 'audioChannelFormatID'),
    name: element.attributes.audioChannelFormatName ?? '',
    type: typeOf(element),
    lowPassHz: Number.isFinite(hz) ? hz : null,
    blocks,
  };
}

/** What a block may ask for by a value that is not nothing. */
const ASKED: readonly (readonly [name: string, reason: Unsupported])[] = [
  ['cartesian', 'cartesian'],
  ['width', 'extent'],
  ['height', 'extent'],
  ['depth', 'extent'],
  ['diffuse', 'diffuse'],
  ['objectDivergence', 'divergence'],
  ['channelLock', 'channel-lock'],
  ['screenRef', 'screen'],
];
const SPHERICAL = ['azimuth', 'elevation', 'distance'];

export function blockOf(element: Element): AdmBlock {
  const values = new ValueReader();
  const unsupported: Unsupported[] = ASKED.flatMap(([name, reason]) =>
    all(element, name).some(({ text }) => values.number(text) !== 0) ? [reason] : [],
  );
  const positions = all(element, 'position');
  if (positions.some(({ attributes }) => !SPHERICAL.includes(attributes.coordinate ?? '')))
    unsupported.push('cartesian');
  if (positions.some(({ attributes }) => attributes.screenEdgeLock !== undefined)) unsupported.push('screen');
  if (all(element, 'zoneExclusion').some(({ children }) => children.length > 0)) unsupported.push('zone-exclusion');
  const [azimuth, elevation, distance] = [
    values.bounded(positions, 'azimuth', 0),
    values.bounded(positions, 'elevation', 0),
    values.bounded(positions, 'distance', 1),
  ];
  // What is near is wide (ITU-R BS.2127, 7.3.8, from memory).
  if (distance.value < 1) unsupported.push('near');
  if (Math.abs(elevation.value) > 90 || distance.value < 0) unsupported.push('damaged');
  const jump = all(element, 'jumpPosition')[0];
  const jumps = values.flag(jump);
  const jumpSeconds = jumps ? Math.max(0, values.number(jump?.attributes.interpolationLength ?? '0')) : null;
  const durationSeconds = values.time(element.attributes.duration);
  // A jump that would end behind its block.
  if ((jumpSeconds ?? 0) > (durationSeconds ?? Number.POSITIVE_INFINITY) + ROUNDED_SECONDS) unsupported.push('damaged');
  return {
    startSeconds: values.time(element.attributes.rtime),
    durationSeconds,
    gain: values.gain(all(element, 'gain')[0]),
    azimuth,
    elevation,
    distance,
    speakerLabels: all(element, 'speakerLabel').map(({ text }) => text.trim()),
    jumpSeconds,
    unsupported: [...new Set([...unsupported, ...values.unsupported])],
  };
}

/** Reads values, and tells of those that cannot be read. */
class ValueReader {
  readonly unsupported: Unsupported[] = [];

  number(text: string): number {
    const value = /^\s*[+-]?(?:\d+\.?\d*|\.\d+)(?:e[+-]?\d+)?\s*$/i.test(text) ? Number(text) : Number.NaN;
    return Number.isFinite(value) ? value : this.#damaged(0);
  }

  flag(element: Element | undefined): boolean {
    return element !== undefined && this.number(element.text) !== 0;
  }

  /** Linear; 1 where there is none. */
  gain(element: Element | undefined): number {
    if (!element) return 1;
    if (element.attributes.gainUnit !== 'dB') return this.number(element.text);
    return /^\s*-inf\s*$/i.test(element.text) ? 0 : 10 ** (this.number(element.text) / 20);
  }

  /** Of `hh:mm:ss.zzzzz`, or `hh:mm:ss.zzzzzSfffff` in parts of a second; null where there is none. */
  time(text: string | undefined): number | null {
    if (text === undefined) return null;
    const found = /^\s*(\d{1,2}):(\d{2}):(\d{2})(?:\.(\d{1,9})(?:S([1-9]\d{0,8}))?)?\s*$/.exec(text);
    if (!found) return this.#damaged(0);
    const [, hours, minutes, seconds, parts = '0', of = `1${'0'.repeat(parts.length)}`] = found;
    return 3600 * Number(hours) + 60 * Number(minutes) + Number(seconds) + Number(parts) / Number(of);
  }

  bounded(positions: readonly Element[], coordinate: string, usual: number): Bounded {
    const at = (bound: string | undefined) => {
      const found = positions.find(
        ({ attributes }) => attributes.coordinate === coordinate && attributes.bound === bound,
      );
      return found && this.number(found.text);
    };
    const value = at(undefined) ?? usual;
    return { value, least: at('min') ?? value, most: at('max') ?? value };
  }

  #damaged<T>(instead: T): T {
    if (!this.unsupported.includes('damaged')) this.unsupported.push('damaged');
    return instead;
  }
}
