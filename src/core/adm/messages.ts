import type { Unsupported } from './model';

/** What of an audio definition is not rendered. */
export const admMessages = {
  reasons: {
    matrix: 'channels that are mixed by a matrix',
    hoa: 'a sound field (HOA)',
    binaural: 'binaural channels',
    'unknown-type': 'channels of an unknown type',
    'unknown-channel': 'a track whose channel format is not described',
    'unknown-pack': 'a pack that is not described',
    'unknown-content': 'content that is not described',
    'unknown-object': 'an object that is not described',
    'unknown-track': 'a track that the file does not list',
    'missing-channel': 'a track beyond the channels of the file',
    'no-blocks': 'a channel without blocks',
    'blocks-overlap': 'blocks that overlap, or are not in order',
    'too-deep': 'objects within each other in a circle, or too deep',
    cartesian: 'Cartesian positions',
    extent: 'a size (width, height or depth)',
    near: 'a distance below 1',
    diffuse: 'diffuse sound',
    divergence: 'divergence',
    'channel-lock': 'channel lock',
    'zone-exclusion': 'zone exclusion',
    screen: 'positions that depend on the screen',
    'position-offset': 'a position offset',
    'alternative-values': 'alternative values that it chooses',
    damaged: 'a value that cannot be read',
  } satisfies Record<Unsupported, string>,
  asks: (where: string, reason: string) => `“${where}” has ${reason}`,
} as const;

/** A definition as a tree. */
export const outlineMessages = {
  kinds: { programme: 'programme', content: 'content', object: 'object' },
  types: {
    DirectSpeakers: 'bed',
    Matrix: 'matrix',
    Objects: 'object',
    HOA: 'sound field',
    Binaural: 'binaural',
  },
  channels: (list: string, count: number) => (count === 1 ? `channel ${list}` : `channels ${list}`),
  from: (time: string) => `from ${time}`,
  to: (time: string) => `to ${time}`,
};
