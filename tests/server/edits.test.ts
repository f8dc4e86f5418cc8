/** Whatever is set in one window is told to the others, by whichever way it came, and once for what comes together. */
import { eq } from 'drizzle-orm';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { AppError, isAppError } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { tasks } from '@/server/db/schema';
import {
  addRow,
  changeRow,
  changeTags,
  predictionOf,
  removeRow,
  rowOf,
  setNameTemplate,
  setTags,
} from '@/server/deliveries/rows';
import { archiveJob, chooseSpec, createJob } from '@/server/jobs/jobs';
import { addMarker, removeMarker, renameMarker } from '@/server/jobs/markers';
import { changeProgramme, removeProgramme } from '@/server/jobs/programmes';
import { changeLineUp, createLineUp, lineUpOf, removeLineUp } from '@/server/line-ups/line-ups';
import { addReceiver, changeReceiver, removeReceiver } from '@/server/receivers/receivers';
import { copySpec, retireSpec, saveSpec, specNamed } from '@/server/specs/specs';
import type { NumberedEvent } from '@/server/tasks/event-log';
import { nameVersion, saveTreatment, stepTreatment } from '@/server/treatments/treatments';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const WAV = wavOf([tone([{ seconds: 4, levelDbfs: -20 }], 48_000)]);

let host: TestServer;
let programmeId: string;
let rowId: string;
beforeEach(async () => {
  host = new TestServer();
  ({ programmeId } = await host.measured(WAV, 'tone.wav'));
  const format = deliveryFormatSchema.parse({ kind: 'wav' });
  rowId = addRow(host.server, { programmeId, specId: 'ebu-r128', format, levelMode: { kind: 'as-set' } }).id;
  await told(() => undefined);
});
afterEach(() => host.remove());

/** What is told of by some work: for each event jobs, and programmes of them, that it names. */
async function told(work: () => unknown): Promise<string[][]> {
  const edits: string[][] = [];
  const other = createJob(host.server, 'another');
  const isTold = new Promise<void>((resolve) => {
    const stop = host.server.events.listen((event: NumberedEvent) => {
      if (event.kind !== 'edit') return;
      const ids = event.touched.map((own) =>
        'isShared' in own ? 'shared' : 'programmeId' in own ? own.programmeId : own.jobId,
      );
      edits.push(ids.filter((id) => id !== other));
      if (!ids.includes(other)) return;
      stop();
      resolve();
    });
  });
  await work();
  // What is told is told by then: of another job something was set behind it.
  chooseSpec(host.server, other, 'ebu-r128');
  await isTold;
  return edits.filter((ids) => ids.length > 0);
}

test('whatever is set of a job is told, once for what comes together', async () => {
  const { server, jobId } = host;
  const lineUp = () =>
    createLineUp(server, jobId, { kind: 'batch', name: 'All', members: [{ programmeId, gapSeconds: 0 }] });
  const ids = { marker: '', lineUp: '' };
  const works: Record<string, () => unknown> = {
    'a name': () => changeProgramme(server, programmeId, { title: 'A tone' }),
    'a note': () => changeProgramme(server, programmeId, { note: 'as agreed' }),
    tags: () => setTags(server, programmeId, { ...NO_TAGS, artist: 'Somebody' }),
    'a treatment': () => saveTreatment(server, programmeId, { gainDb: -3 }),
    'an undo': () => stepTreatment(server, programmeId, 'undo'),
    'a version': () => nameVersion(server, programmeId, 1, 'softer'),
    'a marker': () => {
      ids.marker = addMarker(server, programmeId, { startFrame: 0, endFrame: null, name: 'here' });
    },
    'its name': () => renameMarker(server, ids.marker, 'there'),
    'that it goes': () => removeMarker(server, ids.marker),
    'a row': () => changeRow(server, rowId, { specId: 'streaming-music' }),
    'that a row goes': () => removeRow(server, rowId),
    'a line-up': () => {
      ids.lineUp = lineUp();
    },
    'that it is gone': () => removeLineUp(server, ids.lineUp),
    'a spec': () => chooseSpec(server, jobId, 'streaming-music'),
    'that it is put away': () => archiveJob(server, jobId, true),
    'that a programme goes': () => removeProgramme(server, programmeId, true),
  };
  // Of these nothing but one programme is fetched again.
  const isOfOne = new Set([
    'a note',
    'tags',
    'a treatment',
    'an undo',
    'a version',
    'a marker',
    'its name',
    'that it goes',
    'a row',
    'that a row goes',
  ]);
  for (const [what, work] of Object.entries(works)) {
    expect([what, await told(work)]).toEqual([what, [[isOfOne.has(what) ? programmeId : jobId]]]);
  }
  // Of no job, and of all.
  const shared: Record<string, () => unknown> = {
    'a spec of one’s own': () => copySpec(server, specNamed(server, 'ebu-r128'), 'Ours'),
    'that it is put away': () => retireSpec(server, 'ours'),
    'a receiver': () =>
      addReceiver(server, { name: 'Station', kind: 'put', address: 'https://intake.example/store', secret: '' }),
    'that it is removed': () => removeReceiver(server, 'station'),
  };
  for (const [what, work] of Object.entries(shared)) expect([what, await told(work)]).toEqual([what, [['shared']]]);
  const many = () => Array.from({ length: 50 }, (_, n) => saveTreatment(server, programmeId, { gainDb: -n / 10 }));
  expect(await told(many)).toEqual([[programmeId]]);
});

test('what the server works out by itself is no edit', async () => {
  const { server } = host;
  expect(await told(() => predictionOf(server, rowOf(server, rowId)))).toEqual([]);
  const progress = () => server.db.update(tasks).set({ fraction: 0.5 }).where(eq(tasks.kind, 'measure')).run();
  expect(await told(progress)).toEqual([]);
});

test('what was set elsewhere since it was seen is not overwritten; what is not changed does not count', () => {
  const { server, jobId } = host;
  const lineUpId = createLineUp(server, jobId, { kind: 'batch', name: 'All', members: [{ programmeId }] });
  const receiver = { name: 'Station', kind: 'put', address: 'https://intake.example/store', secret: 'kept' };
  const { id: receiverId } = addReceiver(server, receiver);
  const spec = copySpec(server, specNamed(server, 'ebu-r128'), 'Ours');
  const elsewhere = new AppError('changed-elsewhere', { title: '' }).code;
  const refused = (work: () => unknown) => {
    try {
      work();
    } catch (error) {
      if (isAppError(error)) return error.code;
      throw error;
    }
    return undefined;
  };
  /** One window sets what another has not seen; then that one tries, and tries again with its eyes open. */
  const overwrite = (work: (value: string, seen?: string) => unknown) => {
    work('first');
    expect(refused(() => work('second', 'what was there before'))).toBe(elsewhere);
    // Both want the same.
    expect(refused(() => work('first', 'what was there before'))).toBeUndefined();
    expect(refused(() => work('second', 'first'))).toBeUndefined();
  };
  overwrite((title, seen) =>
    changeProgramme(server, programmeId, { title }, seen === undefined ? undefined : { title: seen }),
  );
  overwrite((artist, seen) =>
    changeTags(server, programmeId, { artist }, seen === undefined ? undefined : { artist: seen }),
  );
  overwrite((template, seen) => setNameTemplate(server, jobId, template, seen));
  overwrite((name, seen) => changeLineUp(server, lineUpId, { name }, seen === undefined ? undefined : { name: seen }));
  overwrite((name, seen) =>
    changeReceiver(server, receiverId, { ...receiver, name }, seen === undefined ? undefined : { name: seen }),
  );
  overwrite((name, seen) => {
    const newest = specNamed(server, spec.id).version;
    saveSpec(server, { ...spec, name }, seen === undefined || seen === 'first' ? newest : newest - 1);
  });

  // Another field of the same: each keeps its own.
  changeTags(server, programmeId, { album: 'Dawn' }, { artist: 'somebody long gone', album: '' });
  changeLineUp(server, lineUpId, { specId: 'streaming-music' }, { name: 'All', specId: null });
  expect(lineUpOf(server, lineUpId)).toMatchObject({ name: 'second', specId: 'streaming-music' });
  changeRow(server, rowId, { specId: 'streaming-music' });
  expect(refused(() => changeRow(server, rowId, { specId: 'cd-master' }, { specId: 'ebu-r128' }))).toBe(elsewhere);
  expect(rowOf(server, rowId).specId).toBe('streaming-music');
});
