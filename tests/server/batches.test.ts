/** What is asked of many programmes: a book whose chapters each fail otherwise, brought to its spec by one action. */
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { isAppError } from '@/core/errors/app-error';
import { listBatches, orderBatch, viewBatch } from '@/server/batches/batches';
import { deliveries } from '@/server/db/schema';
import { acceptDelivery } from '@/server/deliveries/decide';
import { addRows, changeRow } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import { writeRows } from '@/server/deliveries/write-row';
import { viewDeliveries } from '@/server/jobs/delivery-view';
import { createJob } from '@/server/jobs/jobs';
import { removeProgramme } from '@/server/jobs/programmes';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { steerTask } from '@/server/tasks/view';
import { changeTreatment, currentTreatment } from '@/server/treatments/treatments';
import { bookChapter, RATE, RECIPES } from '../fixtures/book';
import { ffmpegDecoded } from '../fixtures/decoded';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const SPEC = 'audiobook-retail';

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());
const code = (work: () => unknown) => {
  try {
    work();
    return 'nothing was thrown';
  } catch (error) {
    return isAppError(error) ? error.code : error;
  }
};
const ended = async (batchId: string) => {
  await host.server.runner.whenIdle();
  return viewBatch(host.server, batchId);
};

test('a book is brought to its spec by one action, or it is said of each chapter what no gain mends', async () => {
  const ids: string[] = [];
  for (const [i, [name, recipe]] of RECIPES.entries()) {
    ids.push((await host.takeIn(bookChapter(i + 1, recipe), `${i + 1} ${name}.wav`)).programmeId);
  }
  await host.server.runner.whenIdle();
  const batchId = orderBatch(host.server, host.jobId, ids, {
    kind: 'deliver',
    specId: SPEC,
    maxReductionDb: 6,
    fitsEdges: true,
  });
  const { items, task } = await ended(batchId);
  expect(task?.state).toBe('done');
  const told = items.map(({ title, state }) => [title.replace(/^\d+ /, ''), state]);
  expect(told).toEqual(RECIPES.map(([name, , isMended]) => [name, isMended ? 'done' : 'missed']));
  for (const { state, text } of items) if (state === 'missed') expect(text).toMatch(/noise floor \d+\.\d dB over/);

  // Every file that was written passes, by means that are not ours: FFmpeg decodes it, and the plain formulas read it.
  const files = readdirSync(join(host.root, 'deliveries', host.jobId));
  expect(files).toHaveLength(RECIPES.filter(([, , isMended]) => isMended).length);
  for (const file of files) {
    const { peakDbfs, rmsDbfs, sampleRateHz, bitRateKbps, channels } = ffmpegDecoded(
      join(host.root, 'deliveries', host.jobId, file),
    );
    expect(peakDbfs).toBeLessThanOrEqual(-3);
    expect(rmsDbfs).toBeGreaterThanOrEqual(-23);
    expect(rmsDbfs).toBeLessThanOrEqual(-18);
    // One rate, and mono, for a book some of whose chapters came otherwise.
    expect([sampleRateHz, bitRateKbps, channels]).toEqual([RATE, 192, 1]);
  }
  const written = [...viewDeliveries(host.server, eq(deliveries.jobId, host.jobId)).values()].flat();
  expect(written.every(({ written: own }) => own?.verdict.inside)).toBe(true);

  // Asked again, nothing is written twice.
  const again = await ended(
    orderBatch(host.server, host.jobId, ids, { kind: 'deliver', specId: SPEC, maxReductionDb: 6, fitsEdges: true }),
  );
  expect(again.items.map(({ state }) => state)).toEqual(items.map(({ state }) => state));
  expect(readdirSync(join(host.root, 'deliveries', host.jobId))).toEqual(files);
});

test('treatments meet a spec by themselves, for whatever is made of them', async () => {
  const ids: string[] = [];
  for (const [i, recipe] of [{ gainDb: -16, floorDbfs: -85 }, { head: 0.05 }, { floorDbfs: -42 }].entries()) {
    ids.push((await host.measured(bookChapter(i + 1, recipe), `${i + 1}.wav`)).programmeId);
  }
  const { items } = await ended(
    orderBatch(host.server, host.jobId, ids, { kind: 'meet', specId: SPEC, maxReductionDb: 10, fitsEdges: true }),
  );
  expect(items.map(({ state, text }) => `${state} ${text}`)).toEqual([
    expect.stringMatching(/^done/),
    expect.stringMatching(/^done/),
    expect.stringMatching(/^missed noise floor/),
  ]);
  const [soft, short] = ids.map((id) => currentTreatment(host.server, id)?.treatment);
  expect(soft?.gainDb).toBeGreaterThan(3);
  expect(short?.paddingStart).toMatchObject({ kind: 'room-tone' });
});

test('steps and tags are set for many, what is left out stays, and who was taken out is told', async () => {
  const ids: string[] = [];
  for (const i of [1, 2, 3]) ids.push((await host.measured(bookChapter(i), `${i}.wav`)).programmeId);
  changeTreatment(host.server, ids[0] as string, { gainDb: 3 });
  removeProgramme(host.server, ids[2] as string, true);
  const set = await ended(orderBatch(host.server, host.jobId, ids, { kind: 'treatment', change: { removeDc: true } }));
  expect(set.items.map(({ state }) => state)).toEqual(['done', 'done', 'failed']);
  expect(currentTreatment(host.server, ids[0] as string)?.treatment).toMatchObject({ gainDb: 3, removeDc: true });
  await ended(
    orderBatch(host.server, host.jobId, ids.slice(0, 2), { kind: 'tags', tags: { artist: 'A reader', year: '2026' } }),
  );
  await ended(orderBatch(host.server, host.jobId, ids.slice(0, 2), { kind: 'tags', tags: { album: 'A book' } }));
  const tags = host.read<{ tags: string }>('SELECT tags FROM programmes').map((row) => row.tags);
  expect(tags[0]).toContain('"artist":"A reader"');
  expect(tags[0]).toContain('"album":"A book"');
  expect(listBatches(host.server, host.jobId)).toHaveLength(3);
});

test('steps are copied from one programme to others; one that they do not fit keeps its own', async () => {
  const file = (seconds: number, levelDbfs: number, sampleRateHz: number) =>
    wavOf([tone([{ seconds, levelDbfs }], sampleRateHz)], { sampleRateHz });
  const files = [file(6, -20, 48_000), file(6, -18, 48_000), file(2, -20, 44_100)];
  const ids: string[] = [];
  for (const [i, bytes] of files.entries()) ids.push((await host.measured(bytes, `${i}.wav`)).programmeId);
  const [from = '', same = '', other = ''] = ids;
  changeTreatment(host.server, from, {
    gainDb: -4,
    removeDc: true,
    trim: { startFrame: 3 * 48_000, endFrame: null },
    fadeOut: { frames: 24_000, shape: 'equal-power' },
  });
  changeTreatment(host.server, other, { gainDb: 1 });
  const wish = { kind: 'steps', fromId: from, steps: ['trim', 'removeDc', 'fadeOut'] } as const;
  const { items } = await ended(
    orderBatch(host.server, host.jobId, [same, other], { ...wish, steps: [...wish.steps] }),
  );
  expect(items.map(({ state, text }) => `${state} ${text}`)).toEqual([
    'done set',
    'missed stays as it was, because it does not fit: Trim',
  ]);
  expect(currentTreatment(host.server, same)?.treatment).toMatchObject({
    gainDb: 0,
    removeDc: true,
    trim: { startFrame: 3 * 48_000 },
    fadeOut: { frames: 24_000 },
  });
  // The same half second, at the rate of the other file.
  expect(currentTreatment(host.server, other)?.treatment).toMatchObject({
    gainDb: 1,
    removeDc: true,
    trim: null,
    fadeOut: { frames: 22_050 },
  });
  removeProgramme(host.server, from, true);
  const gone = await ended(
    orderBatch(host.server, host.jobId, [same], { kind: 'steps', fromId: from, steps: ['trim'] }),
  );
  expect(gone.items.map(({ state }) => state)).toEqual(['failed']);
});

test('what misses is written anew, but for what was accepted and what no gain mends', async () => {
  const ids: string[] = [];
  for (const [i, recipe] of [
    { gainDb: -16, floorDbfs: -85 },
    { gainDb: -16, floorDbfs: -85 },
    { head: 0.05 },
  ].entries()) {
    ids.push((await host.measured(bookChapter(i + 1, recipe), `${i + 1}.wav`)).programmeId);
  }
  const format = deliveryFormatSchema.parse({ kind: 'wav' });
  const asSet = { specId: 'ebu-r128', format, levelMode: { kind: 'as-set' } as const };
  const rows = addRows(host.server, ids, asSet);
  // Its levels are met; no gain mends its short head.
  const levelMode = { kind: 'solved', maxReductionDb: 10, marginDb: 0 } as const;
  changeRow(host.server, rows[2]?.id ?? '', { specId: SPEC, levelMode });
  expect(
    await writeRows(
      host.server,
      rows.map(({ id }) => id),
    ),
  ).toEqual([]);
  await host.server.runner.whenIdle();
  const standing = () => viewSheet(host.server, host.jobId).rows.map(({ delivery }) => delivery);
  const before = standing();
  acceptDelivery(host.server, before[1]?.id ?? '', 'It was asked for like this');
  // Pressed twice, it is done once.
  const [first, second] = [0, 1].map(() => orderBatch(host.server, host.jobId, ids, { kind: 'solve-again' }));
  const { items } = await ended(first ?? '');
  expect(items.map(({ text }) => text)).toEqual(['being written', 'no file of it misses', 'no file of it misses']);
  expect((await ended(second ?? '')).items.every(({ state }) => state === 'done')).toBe(true);
  const after = standing();
  expect(after.map((own) => own?.id)).toEqual([
    expect.not.stringMatching(before[0]?.id ?? ''),
    before[1]?.id,
    before[2]?.id,
  ]);
  expect(after[0]?.written?.verdict.inside).toBe(true);
  expect(host.server.db.select().from(deliveries).all()).toHaveLength(4);
});

test('a batch that was cancelled, or whose process ended, has done each programme once or not at all', async () => {
  const ids: string[] = [];
  for (let i = 0; i < 6; i++) ids.push((await host.takeIn(bookChapter(i + 1, { gainDb: -i }), `${i}.wav`)).programmeId);
  await host.server.runner.whenIdle();
  const wish = { kind: 'deliver', specId: SPEC, maxReductionDb: 6, fitsEdges: true } as const;
  // At once when the first of them is done, however fast the machine is.
  const onFirst = (react: (taskId: string) => void) =>
    new Promise<void>((resolve) => {
      const unlisten = host.server.events.listen((event) => {
        if (event.kind !== 'batch' || event.fraction === 0) return;
        unlisten();
        react(event.taskId);
        resolve();
      });
    });
  const hasBegun = onFirst((taskId) => steerTask(host.server, taskId, 'cancel'));
  const cancelled = orderBatch(host.server, host.jobId, ids, wish);
  await hasBegun;
  const { items, task } = await ended(cancelled);
  expect(task?.state).toBe('cancelled');
  const waiting = items.filter(({ state }) => state === 'waiting');
  expect(waiting.length).toBeGreaterThan(0);
  const goesOn = onFirst(() => undefined);
  const resumed = orderBatch(host.server, host.jobId, ids, wish);
  await goesOn;
  await host.server.close();
  host.server = new Server(new DataFolder(host.root));
  expect((await ended(resumed)).items.map(({ state }) => state)).toEqual(ids.map(() => 'done'));
  expect(readdirSync(join(host.root, 'deliveries', host.jobId)).filter((name) => name.endsWith('.mp3'))).toHaveLength(
    6,
  );
});

test('what makes no batch is refused', async () => {
  const { programmeId } = await host.measured(bookChapter(1), '1.wav');
  const other = createJob(host.server, 'Other');
  const wish = { kind: 'deliver', specId: SPEC } as const;
  expect(code(() => orderBatch(host.server, other, [programmeId], wish))).toBe('bad-request');
  expect(code(() => orderBatch(host.server, host.jobId, [], wish))).toBe('bad-request');
  expect(code(() => orderBatch(host.server, host.jobId, [programmeId], { ...wish, specId: 'none' }))).toBe(
    'unknown-spec',
  );
  const opus = deliveryFormatSchema.parse({ kind: 'opus', sampleRateHz: 44_100 });
  const { items } = await ended(orderBatch(host.server, host.jobId, [programmeId], { ...wish, format: opus }));
  expect(items[0]).toMatchObject({ state: 'failed', text: expect.stringMatching(/Opus is not written at 44\.1 kHz/) });
});
