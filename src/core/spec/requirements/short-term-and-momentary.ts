import type { Readings } from '../../loudness/readings';
import { formatLevel } from '../../units/format';
import { assessNumber, levelField, notAssessed, requirement } from './requirement';

export const shortTerm = requirement({
  key: 'short-term',
  isMovedByGain: true,
  fields: { maxShortTermLufs: levelField.optional() },
  form: {
    title: 'Limits',
    controls: [{ kind: 'number', name: 'shortTerm', label: 'Max short-term, LUFS' }],
    show: ({ maxShortTermLufs }) => ({ shortTerm: maxShortTermLufs }),
    read: (values) => ({ maxShortTermLufs: values.number('shortTerm') }),
  },
  describe: ({ maxShortTermLufs: most }) => [{ name: 'Max short-term', value: describeMost(most) }],
  assess({ maxShortTermLufs: most }, { readings }) {
    return assessMost(
      'short-term',
      'Short-term max',
      readings,
      'maxShortTermLufs',
      most,
      'silence, or shorter than 3 s',
    );
  },
});

export const momentary = requirement({
  key: 'momentary',
  isMovedByGain: true,
  fields: { maxMomentaryLufs: levelField.optional() },
  form: {
    title: 'Limits',
    controls: [{ kind: 'number', name: 'momentary', label: 'Max momentary, LUFS' }],
    show: ({ maxMomentaryLufs }) => ({ momentary: maxMomentaryLufs }),
    read: (values) => ({ maxMomentaryLufs: values.number('momentary') }),
  },
  describe: ({ maxMomentaryLufs: most }) => [{ name: 'Max momentary', value: describeMost(most) }],
  assess({ maxMomentaryLufs: most }, { readings }) {
    return assessMost(
      'momentary',
      'Momentary max',
      readings,
      'maxMomentaryLufs',
      most,
      'silence, or shorter than 0.4 s',
    );
  },
});

function describeMost(most: number | undefined): string {
  return most === undefined ? '' : `${formatLevel(most, 'LUFS')} or less`;
}

function assessMost(
  key: string,
  name: string,
  readings: Readings,
  reading: 'maxShortTermLufs' | 'maxMomentaryLufs',
  most: number | undefined,
  why: string,
) {
  if (most === undefined) return [];
  const named = { key, name, reading, required: `≤ ${formatLevel(most, 'LUFS')}` };
  const measured = readings[reading];
  return [measured === null ? notAssessed(named, why) : assessNumber(named, measured, 'LUFS', { most })];
}
