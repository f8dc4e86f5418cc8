/** The list of jobs: how far each is, from an empty one to one whose file was written, through the server's own code. */
import { deliverAsSet } from '@/server/deliveries/deliver-as-set';
import { rowsOfProgramme } from '@/server/deliveries/rows';
import { listJobs } from '@/server/jobs/job-list';
import { standingOf } from '@/server/jobs/programme-list';
import { saveTreatment } from '@/server/treatments/treatments';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const samples = tone([{ seconds: 4, levelDbfs: -20 }], 48_000, 997);
const WAV = wavOf([samples, samples]);

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

const summary = () => listJobs(host.server).find(({ id }) => id === host.jobId);

test('a job goes from nothing to written, and its programmes from outside to inside', async () => {
  expect(summary()).toMatchObject({ programmes: 0, written: 0, toWrite: 0, accepted: 0 });
  const begun = summary()?.touchedAtMs ?? 0;
  const { programmeId } = await host.measured(WAV);
  await host.measured(wavOf([samples.map((x) => x / 2)]), 'other.wav');
  expect(summary()).toMatchObject({ programmes: 2, measured: 2 });
  expect(await standingOf(host.server, host.jobId)).toEqual({
    specName: 'EBU R 128',
    inside: 0,
    outside: 2,
    notAssessed: 0,
    notMeasured: 0,
  });
  // What would miss its spec waits on the sheet.
  const rowId = await deliverAsSet(host.server, programmeId, 'ebu-r128');
  expect(summary()).toMatchObject({ toWrite: 1, written: 0 });
  saveTreatment(host.server, programmeId, { gainDb: -3 });
  expect(await standingOf(host.server, host.jobId)).toMatchObject({ inside: 1, outside: 1 });
  // However often it is asked for at once, one row has one file.
  const rows = await Promise.all([1, 2, 3].map(() => deliverAsSet(host.server, programmeId, 'ebu-r128')));
  expect(new Set(rows)).toEqual(new Set([rowId]));
  await host.server.runner.whenIdle();
  expect(await deliverAsSet(host.server, programmeId, 'ebu-r128')).toBe(rowId);
  await host.server.runner.whenIdle();
  expect(rowsOfProgramme(host.server, programmeId)).toHaveLength(1);
  expect(summary()).toMatchObject({ toWrite: 0, written: 1, missing: 0, undecided: 0 });
  expect(summary()?.touchedAtMs).toBeGreaterThanOrEqual(begun);
  // Set anew, the same row is written anew.
  saveTreatment(host.server, programmeId, { gainDb: -3.2 });
  await deliverAsSet(host.server, programmeId, 'ebu-r128');
  await host.server.runner.whenIdle();
  expect(summary()).toMatchObject({ written: 2, toWrite: 0 });
  await expect(standingOf(host.server, 'none')).rejects.toMatchObject({ code: 'not-found' });
  await expect(deliverAsSet(host.server, programmeId, 'none')).rejects.toMatchObject({ code: 'unknown-spec' });
});
