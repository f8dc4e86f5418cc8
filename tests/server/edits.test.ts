/** Whatever is set in one window is told to the others, by whichever way it came, and once for what comes together. */
import { eq } from 'drizzle-orm';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { NO_TAGS } from '@/core/file-formats/tags';
import { tasks } from '@/server/db/schema';
import { addRow, changeRow, predictionOf, removeRow, rowOf, setTags } from '@/server/deliveries/rows';
import { archiveJob, chooseSpec, createJob } from '@/server/jobs/jobs';
import { addMarker, removeMarker, renameMarker } from '@/server/jobs/markers';
import { changeProgramme, removeProgramme } from '@/server/jobs/programmes';
import { createLineUp, removeLineUp } from '@/server/line-ups/line-ups';
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
      const ids = event.touched.map((own) => ('programmeId' in own ? own.programmeId : own.jobId));
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
  const many = () => Array.from({ length: 50 }, (_, n) => saveTreatment(server, programmeId, { gainDb: -n / 10 }));
  expect(await told(many)).toEqual([[programmeId]]);
});

test('what the server works out by itself is no edit', async () => {
  const { server } = host;
  expect(await told(() => predictionOf(server, rowOf(server, rowId)))).toEqual([]);
  const progress = () => server.db.update(tasks).set({ fraction: 0.5 }).where(eq(tasks.kind, 'measure')).run();
  expect(await told(progress)).toEqual([]);
});
