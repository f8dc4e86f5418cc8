/** Everything that can be handed over, copied into an output folder: complete, in folders, and never over anything. */
import { appendFileSync, mkdirSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { isAppError } from '@/core/errors/app-error';
import { orderCopyOut, viewCopyOut } from '@/server/deliveries/copy-out';
import { addRow, setNameTemplate } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

let host: TestServer;
let output: string;
const named = process.env.OPSIMETER_OUTPUT;
beforeEach(async () => {
  host = new TestServer();
  output = mkdtempSync(join(tmpdir(), 'opsimeter-out-'));
  process.env.OPSIMETER_OUTPUT = output;
  setNameTemplate(host.server, host.jobId, '{spec}/{title}');
  for (const [title, levelDbfs] of [
    ['Dawn', -20],
    ['Dusk', -26],
  ] as const) {
    const { programmeId } = await host.measured(wavOf([tone([{ seconds: 3, levelDbfs }], 48_000)]), `${title}.wav`);
    const { id } = addRow(host.server, {
      programmeId,
      specId: 'ebu-r128',
      format: deliveryFormatSchema.parse({ kind: 'wav' }),
      levelMode: { kind: 'solved', maxReductionDb: 0, marginDb: 0 },
    });
    await writeRow(host.server, id);
    await host.server.runner.whenIdle();
  }
});
afterEach(async () => {
  if (named === undefined) delete process.env.OPSIMETER_OUTPUT;
  else process.env.OPSIMETER_OUTPUT = named;
  rmSync(output, { recursive: true, force: true });
  await host.remove();
});

const copied = async () => {
  orderCopyOut(host.server, host.jobId);
  await host.server.runner.whenIdle();
  return viewCopyOut(host.server, host.jobId)?.task;
};
const there = () =>
  readdirSync(join(output, 'Test job'), { recursive: true, withFileTypes: true })
    .filter((entry) => entry.isFile())
    .map((entry) => join(entry.parentPath, entry.name).slice(output.length + 10))
    .sort();
const delivery = (name: string) => join(host.root, 'deliveries', host.jobId, name);

test('files lie in the folders that their names state, with their certificates, and are those that were verified', async () => {
  expect((await copied())?.state).toBe('done');
  expect(there()).toEqual(['certificates.json', 'certificates.pdf', 'ebu-r128/dawn.wav', 'ebu-r128/dusk.wav']);
  for (const name of ['dawn.wav', 'dusk.wav']) {
    const copy = readFileSync(join(output, 'Test job', 'ebu-r128', name));
    expect(Buffer.compare(copy, readFileSync(delivery(name)))).toBe(0);
  }
});

test('asked again, what is there stays; another file of the same name is left alone', async () => {
  mkdirSync(join(output, 'Test job', 'ebu-r128'), { recursive: true });
  const foreign = join(output, 'Test job', 'ebu-r128', 'dawn.wav');
  writeFileSync(foreign, 'somebody else’s');
  for (let i = 0; i < 5; i++) orderCopyOut(host.server, host.jobId);
  await host.server.runner.whenIdle();
  expect(readFileSync(foreign, 'utf8')).toBe('somebody else’s');
  const audio = () => there().filter((name) => name.endsWith('.wav'));
  expect(audio()).toEqual(['ebu-r128/dawn 2.wav', 'ebu-r128/dawn.wav', 'ebu-r128/dusk.wav']);
  await copied();
  expect(audio()).toHaveLength(3);
});

test('a file that is not what was verified is not handed over, and the folder has no half of one', async () => {
  appendFileSync(delivery('dawn.wav'), 'x');
  const task = await copied();
  expect(task).toMatchObject({ state: 'failed', error: { code: 'delivery-altered' } });
  expect(readdirSync(output, { recursive: true }).filter((name) => String(name).includes('.part'))).toEqual([]);
});

test('without an output folder it is said so', () => {
  delete process.env.OPSIMETER_OUTPUT;
  expect(viewCopyOut(host.server, host.jobId)).toBeNull();
  try {
    orderCopyOut(host.server, host.jobId);
    throw new Error('nothing was thrown');
  } catch (error) {
    expect(isAppError(error) && error.code).toBe('no-output-folder');
  }
});
