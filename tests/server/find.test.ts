/** What is listed of a job: by words and by how programmes stand, in groups and in order. */

import { changeProgramme, groupProgrammes } from '@/server/jobs/programmes';
import { listTakenIn, type TakeInListing, takenInIds } from '@/server/jobs/take-in-list';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const SPEC = 'ebu-r128';
let host: TestServer;
const ids = new Map<string, string>();

beforeAll(async () => {
  host = new TestServer();
  // On the target of R 128 to a tenth, 9 LU above it, and clipped.
  for (const [name, levelDbfs] of [
    ['Evening song', -23],
    ['Morning song', -14],
    ['Évening talk', -0.2],
  ] as const) {
    const samples = tone([{ seconds: 4, levelDbfs }], 48_000);
    ids.set(name, (await host.measured(wavOf([samples, samples]), `${name}.wav`)).programmeId);
  }
  await host.server.runner.whenIdle();
  // Taken in, and not measured yet.
  host.server.runner.stop();
  const late = tone([{ seconds: 2, levelDbfs: -30 }], 48_000);
  ids.set('Late', (await host.takeIn(wavOf([late]), 'Late.wav')).programmeId);
  groupProgrammes(host.server, [ids.get('Morning song') as string], 'Album');
  changeProgramme(host.server, ids.get('Late') as string, { note: 'sent by Ada, in mono' });
});
afterAll(() => host.remove());

function listed(listing: Partial<TakeInListing>) {
  const whole = { order: 'taken-in', find: '', show: 'all', ...listing } as const;
  const { rows, total, all } = listTakenIn(host.server, host.jobId, { ...whole, specId: SPEC, offset: 0, limit: 100 });
  expect(all).toBe(4);
  expect(total).toBe(rows.length);
  expect(takenInIds(host.server, host.jobId, SPEC, whole)).toEqual(rows.map(({ id }) => id));
  return rows.map(({ title }) => title).sort();
}

test.each<[string, string[]]>([
  ['', ['Evening song', 'Late', 'Morning song', 'Évening talk']],
  ['song', ['Evening song', 'Morning song']],
  ['SONG even', ['Evening song']],
  ['album', ['Morning song']],
  ['ada mono', ['Late']],
  ['.wav', ['Evening song', 'Late', 'Morning song', 'Évening talk']],
  ['nothing of this', []],
  ['%_\\', []],
])('found by words: "%s"', (find, titles) => {
  expect(listed({ find })).toEqual(titles);
});

test('by how they stand against the spec', () => {
  expect(listed({ show: 'inside' })).toEqual(['Evening song']);
  expect(listed({ show: 'misses' })).toEqual(['Morning song', 'Évening talk']);
  expect(listed({ show: 'waiting' })).toEqual(['Late']);
  expect(listed({ show: 'misses', find: 'song' })).toEqual(['Morning song']);
});

test('in the order that is asked for, with what is found alone in its groups', () => {
  const { rows, groups } = listTakenIn(host.server, host.jobId, {
    order: 'furthest',
    find: 'song',
    show: 'all',
    specId: SPEC,
    offset: 0,
    limit: 100,
  });
  expect(rows.map(({ title }) => title)).toEqual(['Morning song', 'Evening song']);
  expect(groups.map(({ name, programmes }) => [name, programmes])).toEqual([
    ['Album', 1],
    [null, 1],
  ]);
});
