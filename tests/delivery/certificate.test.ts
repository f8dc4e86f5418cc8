/** Certificates: what they say, the paper they make, and whether a file is still the one they speak of. */
import { copyFileSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { certificateSchema } from '@/core/delivery/certificate';
import { type DeliveryFormatInput, deliveryFormatSchema } from '@/core/delivery/format';
import { tagsSchema } from '@/core/file-formats/tags';
import { certificateOf, issuedCertificates } from '@/server/certificates/certificate';
import { certificatePdf } from '@/server/certificates/pdf';
import { addRow, setTags } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import { opsimeter } from '../fixtures/command';
import { ffmpeg } from '../fixtures/ffmpeg';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-certificates-'));
const at = (name: string) => join(folder, name);

let host: TestServer;
let programmeId: string;
beforeAll(async () => {
  host = new TestServer();
  const wav = wavOf(musicLike().map((samples) => samples.slice(4 * 48_000, 18 * 48_000)));
  ({ programmeId } = await host.measured(wav, 'Overture.wav'));
  setTags(host.server, programmeId, tagsSchema.parse({ title: 'Overture' }));
});
afterAll(async () => {
  await host.remove();
  rmSync(folder, { recursive: true });
});

async function handedOver(specId: string, format: DeliveryFormatInput) {
  const levelMode = { kind: 'solved', maxReductionDb: 6, marginDb: 0 } as const;
  const row = addRow(host.server, { programmeId, specId, format: deliveryFormatSchema.parse(format), levelMode });
  const id = await writeRow(host.server, row.id);
  await host.server.runner.whenIdle();
  const certificate = certificateOf(host.server, id);
  const files = certificate.files.map(({ fileName }) => {
    copyFileSync(host.server.folder.delivery(host.jobId, fileName), at(fileName));
    return at(fileName);
  });
  const path = at(`${certificate.files[0]?.fileName}.json`);
  writeFileSync(path, JSON.stringify(certificate));
  return { certificate, files, path };
}

test.each<[string, DeliveryFormatInput]>([
  ['ebu-r128', { kind: 'wav' }],
  ['ebu-r128', { kind: 'wav', arrangement: 'split', bitDepth: 16 }],
  ['podcast-stereo', { kind: 'mp3', sampleRateHz: 44_100 }],
  ['streaming-music', { kind: 'm4a' }],
  ['streaming-music', { kind: 'flac' }],
])('%s as %j: the certificate holds for the file, and for no other', async (specId, format) => {
  const { certificate, files, path } = await handedOver(specId, format);
  expect(certificateSchema.parse(JSON.parse(readFileSync(path, 'utf8')))).toEqual(certificate);
  expect(certificate).toMatchObject({ inside: true, spec: { id: specId, version: 1 }, programme: 'Overture' });
  expect(certificate.curve?.shortTermLufs.length).toBeGreaterThan(100);
  const told = opsimeter('verify', path, ...files, '--json');
  expect({ code: told.code, ...JSON.parse(told.out) }).toMatchObject({
    code: 0,
    holds: true,
    isThatSound: true,
    differences: [],
  });
  expect(opsimeter('verify', path, ...files).out).toMatch(/◆ the same bytes as certified/);

  const [first = ''] = files;
  const bytes = readFileSync(first);
  // Of the last sample, or what is coded of it.
  bytes[bytes.length - 9] = (bytes[bytes.length - 9] ?? Number.NaN) ^ 0x40;
  writeFileSync(first, bytes);
  const changed = opsimeter('verify', path, ...files);
  expect(changed.code).toBeGreaterThan(0);
});

test('tags that were changed are told from a sound that was', async () => {
  const { files, path } = await handedOver('streaming-video', { kind: 'flac' });
  ffmpeg('-i', files[0] as string, '-c', 'copy', '-metadata', 'title=Another', at('retagged.flac'));
  const { code, out } = opsimeter('verify', path, at('retagged.flac'));
  expect(code).toBe(1);
  expect(out).toMatch(/the audio is the same, its metadata differs/);
  ffmpeg('-i', files[0] as string, '-af', 'volume=-1dB', at('softer.flac'));
  const softer = opsimeter('verify', path, at('softer.flac'));
  expect(softer.code).toBe(1);
  expect(softer.out).toMatch(/the audio differs/);
  expect(softer.out).toMatch(/▲ Integrated reads −15\.\d\d LUFS, certified −14\.\d\d LUFS/);
});

test('what is no certificate, or of other files, is said in words', async () => {
  writeFileSync(at('no.json'), '{"certificate":"other"}');
  expect(opsimeter('verify', at('no.json'), at('x.wav'))).toMatchObject({
    code: 2,
    err: expect.stringMatching(/not a readable certificate/),
  });
  expect(opsimeter('verify', at('no.json')).err).toMatch(/No file was named/);
});

test('on paper it has a page for each, with a summary ahead', async () => {
  const certificates = await issuedCertificates(host.server, host.jobId);
  const pdf = await certificatePdf(certificates);
  expect(pdf.subarray(0, 5).toString('latin1')).toBe('%PDF-');
  expect(pdf.toString('latin1').match(/\/Type \/Page\b/g)).toHaveLength(certificates.length + 1);
  expect((await certificatePdf([])).length).toBeGreaterThan(500);
});
