import { EventLog, type NumberedEvent } from './event-log';
import type { ServerEvent } from './touched';

const event = (taskId: string, programmeIds: readonly string[] = [taskId]): ServerEvent => ({
  taskId,
  kind: 'measure',
  subjectId: 'a',
  state: 'done',
  fraction: 1,
  timesRealTime: null,
  touched: programmeIds.map((programmeId) => ({ jobId: 'job', programmeId })),
});
const taskIds = (events: readonly NumberedEvent[] | null) =>
  events?.map((own) => (own.kind === 'edit' ? 'an edit' : own.taskId));

test('what came after an event is told again, but for how far tasks were', () => {
  const log = new EventLog({ now: () => 5 });
  const before = log.lastId;
  log.publish(event('first'));
  const between = log.lastId;
  log.publish(event('half', []));
  log.publish(event('second'));
  expect(taskIds(log.after(before))).toEqual(['first', 'second']);
  expect(taskIds(log.after(between))).toEqual(['second']);
  expect(taskIds(log.after(log.lastId))).toEqual([]);
});

test('what is not known any more is said to be unknown, and so is what another server has told', () => {
  const log = new EventLog({ now: () => 5 });
  const before = log.lastId;
  for (let k = 0; k < 1001; k++) log.publish(event(`${k}`));
  expect(log.after(before)).toBeNull();
  expect(log.after(before + 1)).toHaveLength(1000);
  const later = new EventLog({ now: () => 7 });
  expect(later.lastId).toBeGreaterThan(log.lastId);
  expect(later.after(log.lastId)).toBeNull();
  expect(log.after(later.lastId)).toBeNull();
});

test('those who listen are told each event with its number, until they leave', () => {
  const log = new EventLog({ now: () => 5 });
  const heard: number[] = [];
  const leave = log.listen(({ id }) => heard.push(id));
  log.publish(event('first'));
  leave();
  log.publish(event('second'));
  expect(heard).toEqual([5001]);
});
