/** The XML of an audio definition (ADM, ITU-R BS.2076-2, from memory), read to what a rendering asks for. */
import { SaxesParser } from 'saxes';
import {
  type AdmBlock,
  type AdmChannel,
  type AdmContent,
  type AdmModel,
  type AdmObject,
  type AdmPack,
  type AdmProgramme,
  firstBy,
} from '@/core/adm/model';
import { AppError } from '@/core/errors/app-error';
import { blockOf, channelOf, choicesOf, type Element, idOf, objectOf, refs, typeOf } from './adm-elements';

/** One line of a `chna` (ITU-R BS.2088). */
export interface ChnaEntry {
  /** Of the file, counted from 1. */
  track: number;
  uid: string;
  /** Of a track format, or of a channel format; empty where it states none. */
  formatId: string;
  packId: string;
}

/** Where an element that can state its loudness stands in the XML. */
export interface LoudnessPlace {
  element: 'audioProgramme' | 'audioContent';
  id: string;
  /** Of its namespace, with the colon; empty where it has none. */
  prefix: string;
  /** Characters from the first of what it states to behind the last, of each. */
  stated: { start: number; end: number }[];
  /** Where it would state it. */
  insertAt: number;
}

export interface AdmDefinition {
  model: AdmModel;
  loudnessPlaces: LoudnessPlace[];
}

/** Deeper than any definition nests its elements. */
const MOST_DEPTH = 100;
const SILENT_TRACK = /^ATU_0+$/;

/** What links a track to its channel, or to what it is coded in. */
interface Link {
  channelId: string | null;
  streamId: string | null;
  trackFormatIds: readonly string[];
}

/**
 * Reads a definition. What is not rendered is read to the reasons why.
 *
 * @param text of an `axml`; null of a file without, whose tracks may be those of the common definitions
 * @param fileName what a person calls the file, for errors
 * @throws AppError `adm-damaged` where it is no XML
 */
export function readAdmDefinition(text: string | null, chna: readonly ChnaEntry[], fileName: string): AdmDefinition {
  const reader = new DefinitionReader(text ?? '', fileName);
  if (text !== null) reader.read();
  return { model: reader.model(chna), loudnessPlaces: reader.loudnessPlaces };
}

class DefinitionReader {
  readonly loudnessPlaces: LoudnessPlace[] = [];
  readonly #text: string;
  readonly #fileName: string;
  readonly #stack: Element[] = [];
  readonly #programmes: AdmProgramme[] = [];
  readonly #contents: AdmContent[] = [];
  readonly #objects: AdmObject[] = [];
  readonly #packs: AdmPack[] = [];
  readonly #channels: AdmChannel[] = [];
  readonly #streams = new Map<string, Link>();
  /** By the track formats that they name. */
  readonly #streamsByFormat = new Map<string, Link>();
  readonly #trackFormats = new Map<string, Link>();
  readonly #trackUids = new Map<string, { formatId: string | null; channelId: string | null; packId: string | null }>();
  /** Of the channel format that is being read. */
  #blocks: AdmBlock[] = [];
  #place: LoudnessPlace | null = null;
  #statedFrom = 0;

  constructor(text: string, fileName: string) {
    this.#text = text;
    this.#fileName = fileName;
  }

  /** From the first character to the last. */
  read(): void {
    const parser = new SaxesParser();
    parser.on('error', (error) => {
      throw new AppError('adm-damaged', { fileName: this.#fileName, reason: error.message });
    });
    parser.on('opentag', ({ name, attributes }) => {
      if (this.#stack.length === MOST_DEPTH) parser.fail('its elements lie too deep within each other');
      this.#open(name, attributes, this.#tagStart(parser.position));
    });
    parser.on('text', (text) => {
      const element = this.#stack.at(-1);
      if (element) element.text += text;
    });
    parser.on('closetag', () => this.#close(parser.position));
    parser.write(this.#text).close();
  }

  model(chna: readonly ChnaEntry[]): AdmModel {
    const uids = new Set([...chna.map(({ uid }) => uid), ...this.#objects.flatMap(({ trackUids }) => trackUids)]);
    const entries = firstBy(chna, ({ uid }) => uid);
    const tracks = [...uids].flatMap((uid) => {
      const entry = entries.get(uid);
      if (!entry && !SILENT_TRACK.test(uid)) return [];
      const stated = this.#trackUids.get(uid);
      const formatId = stated?.formatId ?? (entry?.formatId || null);
      const channelId = stated?.channelId ?? (formatId === null ? null : this.#channelOf(formatId));
      const channel = entry && entry.track > 0 && !SILENT_TRACK.test(uid) ? entry.track - 1 : null;
      return [{ uid, channel, channelId, packId: stated?.packId ?? (entry?.packId || null) }];
    });
    return {
      programmes: this.#programmes,
      contents: this.#contents,
      objects: this.#objects,
      packs: this.#packs,
      channels: this.#channels,
      tracks,
    };
  }

  /** The channel format of a track format: by its stream, or as one that is common. */
  #channelOf(formatId: string): string | null {
    const [, channelId] = /^(AC_[0-9A-F]{8})(?:_00)?$/.exec(formatId) ?? [];
    if (channelId) return channelId;
    const streamId = this.#trackFormats.get(formatId)?.streamId;
    const stream = (streamId && this.#streams.get(streamId)) || this.#streamsByFormat.get(formatId);
    if (stream) return stream.channelId;
    const [, common] = /^AT_(0001[0-9A-F]{4})_01$/.exec(formatId) ?? [];
    return common ? `AC_${common}` : null;
  }

  #tagStart(position: number): number {
    return this.#text.lastIndexOf('<', position - 1);
  }

  #open(fullName: string, attributes: Readonly<Record<string, string>>, start: number): void {
    const name = localName(fullName);
    const prefix = fullName.slice(0, fullName.length - name.length);
    if (name === 'audioChannelFormat') this.#blocks = [];
    if (name === 'audioProgramme' || name === 'audioContent') {
      this.#place = { element: name, id: idOf({ attributes }, `${name}ID`), prefix, stated: [], insertAt: -1 };
    }
    if (name === 'loudnessMetadata') this.#statedFrom = start;
    this.#stack.push({ name, attributes, text: '', children: [] });
  }

  #close(position: number): void {
    const element = this.#stack.pop() as Element;
    const parent = this.#stack.at(-1);
    const { name } = element;
    const place = this.#place;
    if (place && parent?.name === place.element) {
      if (name === 'loudnessMetadata') place.stated.push({ start: this.#statedFrom, end: position });
      if (/IDRef$/.test(name)) place.insertAt = position;
    }
    if (place && name === place.element) {
      if (place.insertAt < 0) place.insertAt = this.#tagStart(position);
      this.loudnessPlaces.push(place);
      this.#place = null;
    }
    if (!this.#take(element)) parent?.children.push(element);
  }

  #addStream(id: string, link: Link): void {
    this.#streams.set(id, link);
    for (const formatId of link.trackFormatIds) this.#streamsByFormat.set(formatId, link);
  }

  /** @returns whether it is one that is kept in the model, and needed nowhere else */
  #take(element: Element): boolean {
    switch (element.name) {
      case 'audioProgramme':
        this.#programmes.push({
          id: idOf(element, 'audioProgrammeID'),
          name: element.attributes.audioProgrammeName ?? '',
          language: element.attributes.audioProgrammeLanguage ?? null,
          contentIds: refs(element, 'audioContentIDRef'),
          unsupported: choicesOf(element),
        });
        return true;
      case 'audioContent':
        this.#contents.push({
          id: idOf(element, 'audioContentID'),
          name: element.attributes.audioContentName ?? '',
          objectIds: refs(element, 'audioObjectIDRef'),
          unsupported: choicesOf(element),
        });
        return true;
      case 'audioObject':
        this.#objects.push(objectOf(element));
        return true;
      case 'audioPackFormat':
        this.#packs.push({
          id: idOf(element, 'audioPackFormatID'),
          name: element.attributes.audioPackFormatName ?? '',
          type: typeOf(element),
          channelIds: refs(element, 'audioChannelFormatIDRef'),
          packIds: refs(element, 'audioPackFormatIDRef'),
        });
        return true;
      case 'audioChannelFormat':
        this.#channels.push(channelOf(element, this.#blocks));
        return true;
      case 'audioBlockFormat':
        this.#blocks.push(blockOf(element));
        return true;
      case 'audioStreamFormat':
        this.#addStream(idOf(element, 'audioStreamFormatID'), linkOf(element));
        return true;
      case 'audioTrackFormat':
        this.#trackFormats.set(idOf(element, 'audioTrackFormatID'), linkOf(element));
        return true;
      case 'audioTrackUID':
        this.#trackUids.set(idOf(element, 'UID'), {
          formatId: refs(element, 'audioTrackFormatIDRef')[0] ?? null,
          channelId: refs(element, 'audioChannelFormatIDRef')[0] ?? null,
          packId: refs(element, 'audioPackFormatIDRef')[0] ?? null,
        });
        return true;
      default:
        // Of what lies in none of these, nothing is kept.
        return !this.#stack.some(({ name }) => /^audio[A-Z]/.test(name) && name !== 'audioFormatExtended');
    }
  }
}

const localName = (name: string) => name.slice(name.indexOf(':') + 1);

function linkOf(element: Element): Link {
  return {
    channelId: refs(element, 'audioChannelFormatIDRef')[0] ?? null,
    streamId: refs(element, 'audioStreamFormatIDRef')[0] ?? null,
    trackFormatIds: refs(element, 'audioTrackFormatIDRef'),
  };
}
