import type { AdmModel, AdmObject, AdmType } from './model';

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

/** The programmes of a definition; its contents or objects, where it has none. */
export function admOutline(model: AdmModel): OutlineNode[] {
  const { programmes, contents, objects } = model;
  if (programmes.length > 0) {
    return programmes.map(({ id, name, language, contentIds }) => ({
      kind: 'programme',
      id,
      name,
      language,
      object: null,
      children: contentNodes(model, contentIds),
    }));
  }
  if (contents.length > 0)
    return contentNodes(
      model,
      contents.map(({ id }) => id),
    );
  const inner = new Set(objects.flatMap(({ objectIds }) => objectIds));
  const roots = objects.filter(({ id }) => !inner.has(id)).map(({ id }) => id);
  return objectNodes(model, roots, 0);
}

function contentNodes(model: AdmModel, ids: readonly string[]): OutlineNode[] {
  return ids
    .flatMap((id) => model.contents.filter((own) => own.id === id))
    .map(({ id, name, objectIds }) => ({
      kind: 'content',
      id,
      name,
      language: null,
      object: null,
      children: objectNodes(model, objectIds, 0),
    }));
}

function objectNodes(model: AdmModel, ids: readonly string[], depth: number): OutlineNode[] {
  if (depth === MOST_DEPTH) return [];
  return ids
    .flatMap((id) => model.objects.filter((own) => own.id === id))
    .map((object) => ({
      kind: 'object',
      id: object.id,
      name: object.name,
      language: null,
      object: whatItIs(model, object),
      children: objectNodes(model, object.objectIds, depth + 1),
    }));
}

function whatItIs(
  model: AdmModel,
  { trackUids, packIds, startSeconds, durationSeconds }: AdmObject,
): OutlineNode['object'] {
  const tracks = trackUids.flatMap((uid) => model.tracks.filter((own) => own.uid === uid));
  const ofTracks = tracks.flatMap(({ channelId }) => model.channels.filter(({ id }) => id === channelId));
  const ofPacks = model.packs.filter(({ id }) => packIds.includes(id));
  const types = [...ofTracks, ...ofPacks].flatMap(({ type }) => type ?? []);
  const channels = tracks.flatMap(({ channel }) => (channel === null ? [] : [channel + 1]));
  // A pack that is not described is common, and those that are common are meant for loudspeakers by their number.
  const isCommon = types.length === 0 && packIds.some((id) => id.startsWith('AP_0001'));
  return { types: isCommon ? ['DirectSpeakers'] : [...new Set(types)], channels, startSeconds, durationSeconds };
}
