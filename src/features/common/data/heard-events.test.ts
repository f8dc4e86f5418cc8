import type { NumberedEvent } from '@/server/tasks/event-log';
import type { Touched } from '@/server/tasks/touched';
import { HeardEvents } from './heard-events';

const event = (id: number, programmeId?: string): NumberedEvent => ({
  id,
  taskId: `task ${id}`,
  kind: 'measure',
  subjectId: 'a',
  state: 'done',
  fraction: 1,
  timesRealTime: null,
  touched: programmeId === undefined ? [] : [{ jobId: 'job', programmeId }],
});
const ids = (touched: readonly Touched[] | null) => touched?.map((own) => 'programmeId' in own && own.programmeId);

test('what a page was made before is told when it comes late', () => {
  const heard = new HeardEvents();
  expect(ids(heard.touchedAfter(10))).toEqual([]);
  expect(heard.begin()).toBe(10);
  for (const own of [event(11, 'a'), event(12), event(13, 'b')]) heard.hear(own);
  expect(ids(heard.touchedAfter(10))).toEqual(['a', 'b']);
  expect(ids(heard.touchedAfter(12))).toEqual(['b']);
  expect(ids(heard.touchedAfter(13))).toEqual([]);
});

test('it is listened from where the oldest of the first data stands', () => {
  const heard = new HeardEvents();
  heard.touchedAfter(10);
  heard.touchedAfter(8);
  expect(heard.begin()).toBe(8);
});

test('data from before all that was heard, as a browser keeps them, are all old', () => {
  const heard = new HeardEvents();
  heard.touchedAfter(10);
  heard.begin();
  expect(heard.touchedAfter(9)).toBeNull();
  for (let id = 11; id <= 511; id++) heard.hear(event(id, `${id}`));
  expect(heard.touchedAfter(10)).toBeNull();
  expect(ids(heard.touchedAfter(11))).toHaveLength(500);
});

test('where no page has said as of when it is, only what comes is known', () => {
  const heard = new HeardEvents();
  expect(heard.begin()).toBeUndefined();
  heard.hear(event(20, 'a'));
  expect(heard.touchedAfter(18)).toBeNull();
  expect(ids(heard.touchedAfter(19))).toEqual(['a']);
});
