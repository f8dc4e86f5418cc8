import {
  type AdmChannel,
  type AdmContent,
  type AdmModel,
  type AdmObject,
  type AdmPack,
  type AdmTrack,
  type AdmType,
  firstBy,
} from './model';

/** What a definition describes, as a tree that can be shown. */
export interface OutlineNode {
  kind: 'programme' | 'content' | 'object';
  id: string;
  name: string;
  /** Of a programme that states it. */
  language: string | null;
  /** Of an object: what its tracks are, which channels of the file they are (counted from 1), and when it is heard. */
  object: {
    types: AdmType[];
    channels: number[];
    startSeconds: number | null;
    durationSeconds: number | null;
  } | null;
  children: OutlineNode[];
}

const MOST_DEPTH = 16;
/** Nobody reads more: a definition that lists the same objects ever again ends here. */
const MOST_NODES = 5000;

/** The programmes of a definition; its contents or objects, where it has none. */
export function admOutline(model: AdmModel): OutlineNode[] {
  return new Outliner(model).nodes();
}

class Outliner {
  readonly #model: AdmModel;
  readonly #contents: ReadonlyMap<string, AdmContent>;
  readonly #objects: ReadonlyMap<string, AdmObject>;
  readonly #channels: ReadonlyMap<string, AdmChannel>;
  readonly #packs: ReadonlyMap<string, AdmPack>;
  readonly #tracks: ReadonlyMap<string, AdmTrack>;
  #left = MOST_NODES;

  constructor(model: AdmModel) {
    this.#model = model;
    this.#contents = firstBy(model.contents, ({ id }) => id);
    this.#objects = firstBy(model.objects, ({ id }) => id);
    this.#channels = firstBy(model.channels, ({ id }) => id);
    this.#packs = firstBy(model.packs, ({ id }) => id);
    this.#tracks = firstBy(model.tracks, ({ uid }) => uid);
  }

  nodes(): OutlineNode[] {
    const { programmes, contents, objects } = this.#model;
    if (programmes.length > 0) {
      return this.#each(programmes, ({ id, name, language, contentIds }) => ({
        kind: 'programme',
        id,
        name,
        language,
        object: null,
        children: this.#contentNodes(contentIds),
      }));
    }
    if (contents.length > 0) return this.#contentNodes(contents.map(({ id }) => id));
    const inner = new Set(objects.flatMap(({ objectIds }) => objectIds));
    const roots = objects.filter(({ id }) => !inner.has(id)).map(({ id }) => id);
    return this.#objectNodes(roots, 0);
  }

  #contentNodes(ids: readonly string[]): OutlineNode[] {
    return this.#each(found(ids, this.#contents), ({ id, name, objectIds }) => ({
      kind: 'content',
      id,
      name,
      language: null,
      object: null,
      children: this.#objectNodes(objectIds, 0),
    }));
  }

  #objectNodes(ids: readonly string[], depth: number): OutlineNode[] {
    if (depth === MOST_DEPTH) return [];
    return this.#each(found(ids, this.#objects), (object) => ({
      kind: 'object',
      id: object.id,
      name: object.name,
      language: null,
      object: this.#whatItIs(object),
      children: this.#objectNodes(object.objectIds, depth + 1),
    }));
  }

  /** As many as are left. */
  #each<T>(all: readonly T[], nodeOf: (one: T) => OutlineNode): OutlineNode[] {
    const nodes: OutlineNode[] = [];
    for (const one of all) if (this.#left-- > 0) nodes.push(nodeOf(one));
    return nodes;
  }

  #whatItIs({ trackUids, packIds, startSeconds, durationSeconds }: AdmObject): OutlineNode['object'] {
    const tracks = found(trackUids.slice(0, MOST_NODES), this.#tracks);
    const ofTracks = found(
      tracks.flatMap(({ channelId }) => channelId ?? []),
      this.#channels,
    );
    const types = [...ofTracks, ...found(packIds, this.#packs)].flatMap(({ type }) => type ?? []);
    const channels = tracks.flatMap(({ channel }) => (channel === null ? [] : [channel + 1]));
    // A pack that is not described is common, and those that are common are meant for loudspeakers by their number.
    const isCommon = types.length === 0 && packIds.some((id) => id.startsWith('AP_0001'));
    return { types: isCommon ? ['DirectSpeakers'] : [...new Set(types)], channels, startSeconds, durationSeconds };
  }
}

function found<T>(ids: readonly string[], by: ReadonlyMap<string, T>): T[] {
  return ids.flatMap((id) => by.get(id) ?? []);
}
