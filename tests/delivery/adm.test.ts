/** An audio definition (ADM) goes on into every file that can hold it, with its tracks where the channels are, or is refused aloud. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type DeliveryFormatInput, deliveryFormatSchema } from '@/core/delivery/format';
import { addRow } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import { writeRow } from '@/server/deliveries/write-row';
import { viewJob } from '@/server/jobs/jobs';
import { chooseLayout } from '@/server/measure/measure-source';
import { saveTreatment } from '@/server/treatments/treatments';
import { opsimeter } from '../fixtures/command';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { buildWav, interleave } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-adm-'));
const host = new TestServer();
afterAll(async () => {
  await host.remove();
  rmSync(folder, { recursive: true });
});

/** `chna` put together by hand (ITU-R BS.2088, from memory): counts, then track, UID, track format, pack format. */
function chna(tracks: readonly number[]): Buffer {
  const body = Buffer.alloc(4 + 40 * tracks.length);
  body.writeUInt16LE(tracks.length, 0);
  body.writeUInt16LE(tracks.length, 2);
  tracks.forEach((track, i) => {
    const at = 4 + 40 * i;
    body.writeUInt16LE(track, at);
    body.write(`ATU_0000000${i + 1}AT_0001000${i + 1}_01AP_00010003`, at + 2, 'latin1');
  });
  return body;
}
const axml = (attributes = '') =>
  Buffer.from(
    `<?xml version="1.0"?><ebuCoreMain><coreMetadata><format><audioFormatExtended><audioBlockFormat${attributes}/></audioFormatExtended></format></coreMetadata></ebuCoreMain>`,
  );
/** Six voices in film order; the definition names them in the order L R C LFE Ls Rs, by the tracks that they stand in. */
const FILM_TRACKS = [1, 3, 2, 6, 4, 5];
const voices = [0, 1, 2, 3, 4, 5].map((i) => tone([{ seconds: 3, levelDbfs: -32 }], 48_000, 300 + 100 * i));

function source(options: { tracks?: readonly number[]; attributes?: string; riffId?: string } = {}): Buffer {
  const { tracks = FILM_TRACKS, attributes = '' } = options;
  return buildWav({
    channels: 6,
    bits: 24,
    data: interleave(voices, 24),
    chunks: [{ id: 'chna', body: chna(tracks) }],
    trailing: [{ id: 'axml', body: axml(attributes) }],
  });
}

/** The chunks of a file, walked by hand. */
function chunksIn(path: string): Map<string, Buffer> {
  const bytes = readFileSync(path);
  const chunks = new Map<string, Buffer>();
  for (let at = 12; at + 8 <= bytes.length; ) {
    const id = bytes.toString('latin1', at, at + 4);
    const size = bytes.readUInt32LE(at + 4);
    if (id === 'data') break;
    chunks.set(id, bytes.subarray(at + 8, at + 8 + size));
    at += 8 + size + (size % 2);
  }
  return chunks;
}
const tracksOf = (body: Buffer | undefined) =>
  Array.from({ length: body?.readUInt16LE(2) ?? 0 }, (_, i) => body?.readUInt16LE(4 + 40 * i));

async function row(programmeId: string, format: DeliveryFormatInput) {
  const row = addRow(host.server, {
    programmeId,
    specId: 'ebu-r128',
    levelMode: { kind: 'solved', maxReductionDb: 0, marginDb: 0 },
    format: deliveryFormatSchema.parse(format),
  });
  const view = viewSheet(host.server, host.jobId).rows.find(({ id }) => id === row.id);
  return { rowId: row.id, problem: view?.problem ?? null };
}

async function written(rowId: string): Promise<string> {
  const id = await writeRow(host.server, rowId);
  await host.server.runner.whenIdle();
  const all = viewJob(host.server, host.jobId).programmes.flatMap(({ deliveries }) => deliveries);
  const delivery = all.find((own) => own.id === id);
  expect(delivery?.task?.error ?? null).toBeNull();
  return join(host.root, 'deliveries', host.jobId, delivery?.fileName ?? '');
}

test.each<DeliveryFormatInput['kind']>(['wav', 'bw64'])(
  '%s: kept, and its tracks follow the channels',
  async (kind) => {
    const { programmeId, sha256 } = await host.measured(source(), `film-${kind}.wav`);
    chooseLayout(host.server, sha256, '5.1-film');
    await host.server.runner.whenIdle();
    const { rowId, problem } = await row(programmeId, { kind });
    expect(problem).toBeNull();
    const chunks = chunksIn(await written(rowId));
    // In the written file the channels stand as L R C LFE Ls Rs.
    expect(tracksOf(chunks.get('chna'))).toEqual([1, 2, 3, 4, 5, 6]);
    expect(chunks.get('chna')?.toString('latin1', 6, 44)).toBe(chna(FILM_TRACKS).toString('latin1', 6, 44));
    expect(chunks.get('axml')).toEqual(axml());
  },
);

test('what has no place for it is refused with the reason, and can be written without', async () => {
  const { programmeId } = await host.measured(source({ tracks: [1, 2, 3, 4, 5, 6] }), 'bed.wav');
  for (const format of [{ kind: 'flac' }, { kind: 'aiff' }, { kind: 'wav', arrangement: 'split' }] as const) {
    const { problem } = await row(programmeId, format);
    expect(problem?.text).toMatch(/^The source has an audio definition \(ADM\), and /);
    expect(problem?.nearest).toMatchObject({ ...format, withoutAdm: true });
  }
  const { rowId, problem } = await row(programmeId, { kind: 'wav', withoutAdm: true });
  expect(problem).toBeNull();
  const chunks = chunksIn(await written(rowId));
  expect([chunks.has('chna'), chunks.has('axml')]).toEqual([false, false]);
});

test('times that trim would move are refused; a definition without times moves along', async () => {
  const timed = await host.measured(
    source({ tracks: [1, 2, 3, 4, 5, 6], attributes: ' rtime="00:00:01.00000"' }),
    'timed.wav',
  );
  saveTreatment(host.server, timed.programmeId, { gainDb: 0, trim: { startFrame: 4800, endFrame: null } });
  expect((await row(timed.programmeId, { kind: 'bw64' })).problem?.text).toMatch(/times that it states are moved/);
  const bed = await host.measured(source({ tracks: [6, 5, 4, 3, 2, 1] }), 'still.wav');
  saveTreatment(host.server, bed.programmeId, { gainDb: 0, trim: { startFrame: 4800, endFrame: null } });
  const { rowId, problem } = await row(bed.programmeId, { kind: 'bw64' });
  expect(problem).toBeNull();
  expect(tracksOf(chunksIn(await written(rowId)).get('chna'))).toEqual([6, 5, 4, 3, 2, 1]);
});

test('the command does the same', () => {
  const at = (name: string) => join(folder, name);
  writeFileSync(at('bed.wav'), source({ tracks: [1, 2, 3, 4, 5, 6] }));
  expect(
    opsimeter('master', at('bed.wav'), '--spec', 'ebu-r128', '--out', at('out.wav'), '--isrc', 'AA6Q72000047').code,
  ).toBe(0);
  const chunks = chunksIn(at('out.wav'));
  expect(tracksOf(chunks.get('chna'))).toEqual([1, 2, 3, 4, 5, 6]);
  expect(chunks.get('axml')?.toString()).toMatch(/audioFormatExtended/);
  expect(chunks.get('axml')?.toString()).toMatch(/ISRC:AA6Q72000047/);
  const refused = opsimeter('master', at('bed.wav'), '--spec', 'ebu-r128', '--out', at('out.flac'));
  expect(refused).toMatchObject({
    code: 2,
    err: expect.stringMatching(/audio definition \(ADM\), and FLAC has no place for it/),
  });
  expect(opsimeter('master', at('bed.wav'), '--spec', 'ebu-r128', '--out', at('out.flac'), '--without-adm').code).toBe(
    0,
  );
});
