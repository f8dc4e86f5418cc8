import * as z from 'zod';
import type { DigitalSilence } from '../../loudness/digital-silence';
import { formatNumber } from '../../units/format';
import { isUnknown } from '../facts';
import { rangeControls, showRange } from './form';
import { assessCheck, assessNumber, describeRange, notAssessed, rangeField, requirement } from './requirement';

const HEAD_NAME = 'Head';
const TAIL_NAME = 'Tail';

const EDGES_TITLE = 'Head and tail, seconds';

export const edges = requirement({
  key: 'edges',
  isMovedByGain: false,
  fields: {
    /** Seconds ahead of the first sound and behind the last. */
    head: rangeField.optional(),
    tail: rangeField.optional(),
  },
  form: {
    title: EDGES_TITLE,
    controls: [
      ...rangeControls('head', 'Head, at least', 'Head, at most'),
      ...rangeControls('tail', 'Tail, at least', 'Tail, at most'),
    ],
    show: ({ head, tail }) => ({ ...showRange('head', head), ...showRange('tail', tail) }),
    read: (values) => ({ head: values.range('head'), tail: values.range('tail') }),
  },
  describe: ({ head, tail }) => [
    { name: HEAD_NAME, value: head ? describeRange(head, 's') : '' },
    { name: TAIL_NAME, value: tail ? describeRange(tail, 's') : '' },
  ],
  assess({ head, tail }, { edges: own }) {
    return (
      [
        ['head', HEAD_NAME, head, 'headSeconds'],
        ['tail', TAIL_NAME, tail, 'tailSeconds'],
      ] as const
    ).flatMap(([key, name, range, side]) => {
      if (!range) return [];
      const named = { key, name, required: describeRange(range, 's') };
      return [isUnknown(own) ? notAssessed(named, own.unknown) : assessNumber(named, own[side], 's', range)];
    });
  },
});

/** Digital silence shorter than this at an edge is not heard as a gap; no document says how short, the number is ours. */
const SHORTEST_GAP_SECONDS = 0.05;

export const roomTone = requirement({
  key: 'room-tone',
  isMovedByGain: false,
  fields: {
    /** What stands at the edges is room tone: no digital silence. */
    needsRoomTone: z.boolean().optional(),
  },
  form: {
    title: EDGES_TITLE,
    controls: [{ kind: 'ticks', name: 'roomTone', label: '', options: [['yes', 'room tone, no digital silence']] }],
    show: ({ needsRoomTone }) => ({ roomTone: needsRoomTone ? ['yes'] : [] }),
    read: (values) => ({ needsRoomTone: values.ticked('roomTone') ? true : undefined }),
  },
  describe: ({ needsRoomTone }) => [
    { name: 'Head and tail', value: needsRoomTone ? 'room tone, no digital silence' : '' },
  ],
  assess({ needsRoomTone }, { readings: { digitalSilence } }) {
    if (!needsRoomTone) return [];
    const named = { key: 'room-tone', name: 'Head and tail', required: 'room tone' };
    if (!digitalSilence) return [notAssessed(named, 'measured before this was read; measure it again')];
    const found = silenceAtEdges(digitalSilence);
    return [assessCheck(named, found ?? 'no digital silence', found === null)];
  },
});

function silenceAtEdges({ headSeconds, tailSeconds }: DigitalSilence): string | null {
  const parts = [['start', headSeconds] as const, ['end', tailSeconds] as const].flatMap(([edge, seconds]) =>
    seconds >= SHORTEST_GAP_SECONDS ? `${formatNumber(seconds, 2)} s at the ${edge}` : [],
  );
  return parts.length > 0 ? `digital silence: ${parts.join(', ')}` : null;
}
