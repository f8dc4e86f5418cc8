import { commonChannel } from './common-definitions';
import {
  type AdmBlock,
  type AdmChannel,
  type AdmContent,
  type AdmModel,
  type AdmObject,
  type AdmTrack,
  firstBy,
  ROUNDED_SECONDS,
  type Unsupported,
} from './model';

/** One track that is heard, and how: what a renderer is given. */
export interface RenderItem {
  /** Of the file, counted from 0. */
  channel: number;
  format: AdmChannel;
  /** Of all objects that it lies in, linear. */
  gain: number;
  startSeconds: number | null;
  durationSeconds: number | null;
}

/** What of a programme is not rendered, and where. */
interface NotRendered {
  reason: Unsupported;
  /** The name of the object, pack or channel that asks for it. */
  where: string;
}

export interface Selection {
  items: readonly RenderItem[];
  /** With anything here, what the items make is not the programme. */
  notRendered: readonly NotRendered[];
}

/** Deeper than anybody nests objects: a definition in a circle is one that ends here. */
const MOST_DEPTH = 16;
/** More objects and tracks than any programme is made of: a definition that lists the same ones ever again ends here. */
const MOST_VISITS = 100_000;
/** Nobody reads more of what is not rendered. */
const MOST_TOLD = 20;

const TYPE_REASONS = { Matrix: 'matrix', HOA: 'hoa', Binaural: 'binaural' } as const;

/**
 * The tracks that a programme is made of (ITU-R BS.2127, 5, from memory): of its contents' objects, and of theirs; of objects that stand for each
 * other, the first. Of a definition without programmes, all contents; without contents, all objects; without objects, all tracks.
 *
 * @param partId of one of the model's programmes, or of one of its contents, alone
 * @param fileChannels what the file has
 */
export function selectItems(model: AdmModel, partId: string | null, fileChannels: number): Selection {
  const selector = new Selector(model, fileChannels);
  selector.part(partId);
  return { items: selector.items, notRendered: selector.notRendered };
}

class Selector {
  readonly items: RenderItem[] = [];
  readonly notRendered: NotRendered[] = [];
  readonly #model: AdmModel;
  readonly #contents: ReadonlyMap<string, AdmContent>;
  readonly #objects: ReadonlyMap<string, AdmObject>;
  readonly #channels: ReadonlyMap<string, AdmChannel>;
  readonly #tracks: ReadonlyMap<string, AdmTrack>;
  readonly #packIds: ReadonlySet<string>;
  readonly #fileChannels: number;
  /** A channel may stand behind many tracks, and have many blocks. */
  readonly #reasons = new Map<AdmChannel, readonly Unsupported[]>();
  #visits = 0;
  /** Objects that are heard only where they are chosen instead of another. */
  readonly #alternatives: ReadonlySet<string>;

  constructor(model: AdmModel, fileChannels: number) {
    this.#model = model;
    this.#contents = firstBy(model.contents, ({ id }) => id);
    this.#objects = firstBy(model.objects, ({ id }) => id);
    this.#channels = firstBy(model.channels, ({ id }) => id);
    this.#tracks = firstBy(model.tracks, ({ uid }) => uid);
    this.#packIds = new Set(model.packs.map(({ id }) => id));
    this.#fileChannels = fileChannels;
    this.#alternatives = new Set(model.objects.flatMap(({ complementaryIds }) => complementaryIds));
  }

  part(id: string | null): void {
    const { programmes, contents, objects, tracks } = this.#model;
    const programme = programmes.find((own) => own.id === id);
    const content = id === null ? undefined : this.#contents.get(id);
    if (content) this.#content(content.id, content.name);
    else if (programme) {
      for (const reason of programme.unsupported) this.#refuse(reason, programme.name);
      for (const contentId of programme.contentIds) this.#content(contentId, programme.name);
    } else if (contents.length > 0) {
      for (const content of contents) this.#content(content.id, content.name);
    } else if (objects.length > 0) {
      for (const object of this.#roots()) this.#object(object.id, object.name, 1, 0);
    } else {
      for (const { uid, channel } of tracks) {
        if (channel !== null) this.#track(uid, uid, { gain: 1, startSeconds: null, durationSeconds: null });
      }
    }
  }

  #content(id: string, within: string): void {
    const content = this.#contents.get(id);
    if (!content) {
      this.#refuse('unknown-content', within);
      return;
    }
    for (const reason of content.unsupported) this.#refuse(reason, content.name);
    for (const objectId of content.objectIds) {
      if (!this.#alternatives.has(objectId)) this.#object(objectId, content.name, 1, 0);
    }
  }

  #object(id: string, within: string, gain: number, depth: number): void {
    const object = this.#objects.get(id);
    if (!object) {
      this.#refuse('unknown-object', within);
      return;
    }
    if (depth === MOST_DEPTH || this.#visits++ > MOST_VISITS) {
      this.#refuse('too-deep', object.name);
      return;
    }
    for (const reason of object.unsupported) this.#refuse(reason, object.name);
    const own = {
      gain: gain * object.gain,
      startSeconds: object.startSeconds,
      durationSeconds: object.durationSeconds,
    };
    for (const packId of object.packIds) this.#pack(packId, object.name);
    for (const uid of object.trackUids) this.#track(uid, object.name, own);
    for (const inner of object.objectIds) {
      if (!this.#alternatives.has(inner)) this.#object(inner, object.name, own.gain, depth + 1);
    }
  }

  #track(uid: string, where: string, how: Pick<RenderItem, 'gain' | 'startSeconds' | 'durationSeconds'>): void {
    if (this.#visits++ > MOST_VISITS) {
      this.#refuse('too-deep', where);
      return;
    }
    const track = this.#tracks.get(uid);
    // Silence that stands where a track would.
    if (track?.channel === null) return;
    const format = track?.channelId ? this.#format(track.channelId) : undefined;
    if (!track) this.#refuse('unknown-track', where);
    else if (track.channel >= this.#fileChannels) this.#refuse('missing-channel', where);
    else if (!format) this.#refuse('unknown-channel', where);
    else {
      const reasons = this.#reasonsOf(format);
      for (const reason of reasons) this.#refuse(reason, format.name);
      if (reasons.length === 0) this.items.push({ channel: track.channel, format, ...how });
    }
  }

  /** A pack that is not described may ask for anything. */
  #pack(id: string, where: string): void {
    const isCommon = /^AP_0001/i.test(id);
    if (!isCommon && !this.#packIds.has(id)) this.#refuse('unknown-pack', where);
  }

  #format(id: string): AdmChannel | undefined {
    return this.#channels.get(id) ?? commonChannel(id);
  }

  /** Objects that lie in no other. */
  #roots(): AdmObject[] {
    const { objects } = this.#model;
    const inner = new Set(objects.flatMap(({ objectIds }) => objectIds));
    return objects.filter(({ id }) => !inner.has(id) && !this.#alternatives.has(id));
  }

  #reasonsOf(format: AdmChannel): readonly Unsupported[] {
    const known = this.#reasons.get(format) ?? notRenderedOf(format);
    this.#reasons.set(format, known);
    return known;
  }

  #refuse(reason: Unsupported, where: string): void {
    if (
      this.notRendered.length < MOST_TOLD &&
      !this.notRendered.some((own) => own.reason === reason && own.where === where)
    ) {
      this.notRendered.push({ reason, where });
    }
  }
}

/** What of a channel is not rendered. */
function notRenderedOf({ type, blocks }: AdmChannel): Unsupported[] {
  if (type === null) return ['unknown-type'];
  if (type !== 'Objects' && type !== 'DirectSpeakers') return [TYPE_REASONS[type]];
  if (blocks.length === 0) return ['no-blocks'];
  return [
    ...(hasOverlaps(blocks) ? (['blocks-overlap'] as const) : []),
    ...new Set(blocks.flatMap(({ unsupported }) => unsupported)),
  ];
}

/** Whether a block begins before the one ahead of it ends. */
function hasOverlaps(blocks: readonly AdmBlock[]): boolean {
  return blocks.some((block, i) => {
    const before = blocks[i - 1];
    if (!before) return false;
    const end =
      before.durationSeconds === null ? Number.POSITIVE_INFINITY : (before.startSeconds ?? 0) + before.durationSeconds;
    return (block.startSeconds ?? 0) < end - ROUNDED_SECONDS;
  });
}
