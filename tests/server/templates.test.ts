/** Templates: kept, applied to one or many, brought out as a file and in again; those of the app can be written. */
import { deliveryFormatSchema } from '@/core/delivery/format';
import { fileOfTemplate, STARTERS } from '@/core/delivery/template';
import { isAppError } from '@/core/errors/app-error';
import { orderBatch, viewBatch } from '@/server/batches/batches';
import { addRow, rowsOfProgramme, setNameTemplate } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import {
  applyTemplate,
  importTemplate,
  listTemplates,
  removeTemplate,
  saveRowsAsTemplate,
  templateOf,
} from '@/server/deliveries/templates';
import { changeTreatment, currentTreatment } from '@/server/treatments/treatments';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

let host: TestServer;
let first: string;
let second: string;
beforeEach(async () => {
  host = new TestServer();
  const piece = (start: number) =>
    musicLike().map((samples) => samples.slice(start, start + 6 * 48_000).map((x) => 0.4 * x));
  first = (await host.measured(wavOf(piece(0)), 'first.wav')).programmeId;
  // The same samples at another rate are another length of time: what matters is that lengths keep theirs.
  second = (await host.measured(wavOf(piece(9000), { sampleRateHz: 96_000 }), 'second.wav')).programmeId;
});
afterEach(() => host.remove());

const code = (work: () => unknown) => {
  try {
    work();
    return 'nothing was thrown';
  } catch (error) {
    return isAppError(error) ? error.code : (error as Error).name;
  }
};
const treatmentOf = (id: string) => currentTreatment(host.server, id)?.treatment;
function kept() {
  addRow(host.server, {
    programmeId: first,
    specId: 'ebu-r128',
    format: deliveryFormatSchema.parse({ kind: 'flac' }),
    levelMode: { kind: 'solved', maxReductionDb: 3, marginDb: 0 },
  });
  changeTreatment(host.server, first, {
    gainDb: -7,
    removeDc: true,
    trim: { startFrame: 100, endFrame: 200_000 },
    fadeIn: { frames: 4800, shape: 's-curve' },
    paddingStart: { frames: 24_000, kind: 'room-tone', toneStartFrame: 77 },
  });
  setNameTemplate(host.server, host.jobId, '{job}_{title}');
  return saveRowsAsTemplate(host.server, 'Season', first, { withTreatment: true, withNames: true });
}

test('what belongs to every programme is kept, what belongs to one is not', () => {
  expect(templateOf(host.server, kept())).toMatchObject({
    name: 'Season',
    isBuiltIn: false,
    sampleRateHz: 48_000,
    nameTemplate: '{job}_{title}',
    rows: [{ specId: 'ebu-r128', format: { kind: 'flac' } }],
    treatment: {
      removeDc: true,
      fadeIn: { frames: 4800, shape: 's-curve' },
      paddingStart: { frames: 24_000, kind: 'room-tone' },
    },
  });
  const { treatment } = templateOf(host.server, kept());
  expect(Object.keys(treatment ?? {}).sort()).toEqual(['fadeIn', 'paddingStart', 'removeDc']);
  expect(treatment?.paddingStart).not.toHaveProperty('toneStartFrame');
  // Of a gain alone nothing is for others.
  changeTreatment(host.server, first, { removeDc: false, trim: null, fadeIn: null, paddingStart: null });
  const plain = saveRowsAsTemplate(host.server, 'Season', first, { withTreatment: true });
  expect(templateOf(host.server, plain).treatment).toBeNull();
  // In place of the one of its name.
  expect(listTemplates(host.server).filter(({ isBuiltIn }) => !isBuiltIn)).toHaveLength(1);
});

test('applied to another, its lengths keep their time, and its gain and trim stay its own', () => {
  const id = kept();
  changeTreatment(host.server, second, { gainDb: 2, trim: { startFrame: 5, endFrame: 100_000 } });
  expect(applyTemplate(host.server, id, [second])).toBe(1);
  expect(applyTemplate(host.server, id, [second])).toBe(0);
  expect(rowsOfProgramme(host.server, second)).toHaveLength(1);
  expect(treatmentOf(second)).toMatchObject({
    gainDb: 2,
    trim: { startFrame: 5, endFrame: 100_000 },
    removeDc: true,
    fadeIn: { frames: 9600, shape: 's-curve' },
    paddingStart: { frames: 48_000, kind: 'room-tone' },
  });
});

test('as a file it goes elsewhere, and is there what it was', async () => {
  const file = JSON.parse(JSON.stringify(fileOfTemplate(templateOf(host.server, kept()))));
  const other = new TestServer();
  try {
    const id = importTemplate(other.server, file);
    expect(fileOfTemplate(templateOf(other.server, id))).toEqual(file);
  } finally {
    await other.remove();
  }
  for (const bad of [
    {},
    { ...file, format: 'other' },
    { ...file, rows: [] },
    { ...file, treatment: { gainDb: 3 } },
    null,
  ])
    expect(code(() => importTemplate(host.server, bad))).toBe('ZodError');
});

test('a spec that is not here is told before anything is set; a row that is there twice is added once', () => {
  const [row] = STARTERS[0]?.rows ?? [];
  const file = { format: 'opsimeter-template', version: 1, name: 'Foreign', treatment: { removeDc: true } };
  const foreign = importTemplate(host.server, { ...file, rows: [row, { ...row, specId: 'nowhere' }] });
  expect(code(() => applyTemplate(host.server, foreign, [first, second]))).toBe('unknown-spec');
  expect(viewSheet(host.server, host.jobId, null).rows).toEqual([]);
  expect(treatmentOf(first)).toBeUndefined();
  const twice = importTemplate(host.server, { ...file, rows: [row, row] });
  expect(applyTemplate(host.server, twice, [first])).toBe(1);
});

test('many at once, by a batch; one that is not there is refused', async () => {
  const id = kept();
  const wish = { kind: 'template', templateId: id } as const;
  const batch = orderBatch(host.server, host.jobId, [first, second], wish);
  await host.server.runner.whenIdle();
  expect(viewBatch(host.server, batch).items.map(({ state }) => state)).toEqual(['done', 'done']);
  expect(viewSheet(host.server, host.jobId, null).rows).toHaveLength(2);
  removeTemplate(host.server, id);
  expect(code(() => orderBatch(host.server, host.jobId, [first], wish))).toBe('not-found');
  expect(code(() => applyTemplate(host.server, id, [first]))).toBe('not-found');
});

test.each(STARTERS.map(({ id, name }) => [name, id]))(
  '%s: its rows can be written for a stereo programme',
  (_name, id) => {
    const { rows } = templateOf(host.server, id);
    expect(applyTemplate(host.server, id, [first])).toBe(rows.length);
    for (const { problem } of viewSheet(host.server, host.jobId, first).rows) expect(problem).toBeNull();
    removeTemplate(host.server, id);
    expect(templateOf(host.server, id).isBuiltIn).toBe(true);
  },
);
