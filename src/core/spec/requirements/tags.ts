import * as z from 'zod';
import { isUnknown } from '../facts';
import { assessCheck, notAssessed, requirement } from './requirement';

export const TAGS_DEMANDED = ['title', 'artist', 'album', 'track', 'year', 'genre', 'isrc'] as const;

export const tags = requirement({
  key: 'tags',
  isMovedByGain: false,
  fields: { tags: z.array(z.enum(TAGS_DEMANDED)).nonempty().optional() },
  form: {
    title: 'Required tags',
    controls: [{ kind: 'ticks', name: 'tags', label: '', options: TAGS_DEMANDED.map((tag) => [tag, tag] as const) }],
    show: ({ tags: asked }) => ({ tags: asked }),
    read: (values) => ({ tags: values.ticked<(typeof TAGS_DEMANDED)[number]>('tags') }),
  },
  describe: ({ tags: asked }) => [{ name: 'Tags', value: (asked ?? []).join(', ') }],
  assess({ tags: asked }, { tags: own }) {
    return (asked ?? []).map((tag) => {
      const named = { key: `tag-${tag}`, name: tagName(tag), required: 'stated' };
      return isUnknown(own) ? notAssessed(named, own.unknown) : assessCheck(named, own[tag] || 'none', own[tag] !== '');
    });
  },
});

function tagName(tag: (typeof TAGS_DEMANDED)[number]): string {
  return tag === 'isrc' ? 'ISRC' : tag.charAt(0).toUpperCase() + tag.slice(1);
}
