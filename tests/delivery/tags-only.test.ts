/** Loudness tags, covers, and files that are handed over as they came but for their tags: what is coded stays bit for bit. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { packetsHash } from '@/codecs/hash';
import { coverType } from '@/core/delivery/cover';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { r128GainQ8, replayGainDb } from '@/core/delivery/loudness-tags';
import { FILE_FORMATS, type FileKind } from '@/core/file-formats/file-formats';
import { tagsSchema } from '@/core/file-formats/tags';
import { setCover } from '@/server/deliveries/cover';
import { addRow, setTags } from '@/server/deliveries/rows';
import { writeRow } from '@/server/deliveries/write-row';
import { viewDelivery } from '@/server/jobs/delivery-view';
import { hashSamples } from '@/workers/node/pcm-file';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

const scratch = mkdtempSync(join(tmpdir(), 'opsimeter-tags-'));
const at = (name: string) => join(scratch, name);
let host: TestServer;
beforeAll(() => {
  host = new TestServer();
  ffmpeg('-f', 'lavfi', '-i', 'testsrc=size=64x64', '-frames:v', '1', at('cover.png'));
});
afterAll(async () => {
  await host.remove();
  rmSync(scratch, { recursive: true });
});

const PIECE = musicLike().map((samples) => samples.slice(8 * 48_000, 12 * 48_000).map((x) => 0.5 * x));

function ffmpeg(...args: string[]): string {
  const { status, stdout, stderr } = spawnSync('ffmpeg', ['-y', '-v', 'error', ...args]);
  if (status !== 0) throw new Error(stderr.toString());
  return stdout.toString();
}

function probed(path: string) {
  const args = ['-v', 'error', '-show_format', '-show_streams', '-of', 'json', path];
  const { format, streams } = JSON.parse(spawnSync('ffprobe', args).stdout.toString());
  const all: [string, unknown][] = Object.entries({ ...format.tags, ...streams[0].tags });
  const tags = Object.fromEntries(all.map(([name, value]) => [name.toLowerCase(), String(value)]));
  const picture = streams.find(({ codec_type }: { codec_type: string }) => codec_type === 'video');
  return { tags, picture: picture?.codec_name as string | undefined };
}

async function pieces(bytes: Uint8Array) {
  return (async function* () {
    yield bytes;
  })();
}

/** Has a programme written; where it lies, and what was measured of it. */
async function written(programmeId: string, format: object) {
  const row = addRow(host.server, {
    programmeId,
    specId: 'archive',
    levelMode: { kind: 'as-set' },
    format: deliveryFormatSchema.parse(format),
  });
  const deliveryId = await writeRow(host.server, row.id);
  await host.server.runner.whenIdle();
  const delivery = viewDelivery(host.server, deliveryId);
  if (!delivery.written) throw new Error(JSON.stringify(delivery.task?.error));
  return { delivery, path: host.server.folder.delivery(host.jobId, delivery.fileName), ...delivery.written };
}

test('gains are of the reference that each tag has: ReplayGain 2.0 and RFC 7845 (from memory)', () => {
  expect(replayGainDb(-18)).toBe(0);
  expect(replayGainDb(-10.123)).toBe(-7.88);
  expect(r128GainQ8(-23)).toBe(0);
  expect(r128GainQ8(-14)).toBe(-2304);
  expect(r128GainQ8(-300)).toBe(32_767);
});

test.each<[FileKind]>([['flac'], ['mp3'], ['m4a'], ['opus'], ['ogg']])(
  '%s carries its cover and says how loud it is, as measured from the file',
  async (kind) => {
    const { programmeId } = await host.measured(wavOf(PIECE), `piece for ${kind}.wav`);
    const cover = readFileSync(at('cover.png'));
    await setCover(host.server, programmeId, await pieces(cover));
    setTags(host.server, programmeId, tagsSchema.parse({ title: 'Piece' }));
    const { path, readings } = await written(programmeId, { kind, hasLoudnessTags: true });
    const { tags, picture } = probed(path);
    expect(picture).toBe('png');
    expect(tags.title).toBe('Piece');
    ffmpeg('-i', path, '-map', '0:v', '-c', 'copy', '-f', 'image2', at(`${kind}.png`));
    expect(readFileSync(at(`${kind}.png`)).equals(cover)).toBe(true);
    const lufs = readings.integratedLufs ?? Number.NaN;
    if (kind === 'opus') {
      expect(tags.r128_track_gain).toBe(String(Math.round(256 * (-23 - lufs))));
    } else {
      expect(tags.replaygain_track_gain).toBe(`${(-18 - lufs).toFixed(2)} dB`);
      expect(Number(tags.replaygain_track_peak)).toBeCloseTo(10 ** ((readings.samplePeakDbfs ?? Number.NaN) / 20), 5);
    }
  },
);

test.each<[FileKind, string[]]>([
  ['flac', ['-c:a', 'flac']],
  ['mp3', ['-c:a', 'libmp3lame', '-q:a', '2', '-metadata', 'album=Kept']],
  ['m4a', ['-c:a', 'aac', '-b:a', '128k']],
  ['opus', ['-c:a', 'libopus', '-b:a', '96k']],
  ['ogg', ['-c:a', 'libvorbis']],
])('tags only: a %s file is what it was, but for what it says of itself', async (kind, coder) => {
  const name = `their.${FILE_FORMATS[kind].extensions[0]}`;
  const wav = at('piece.wav');
  writeFileSync(wav, wavOf(PIECE));
  ffmpeg('-i', wav, ...coder, at(name));
  const { programmeId, sha256 } = await host.measured(readFileSync(at(name)), name);
  setTags(host.server, programmeId, tagsSchema.parse({ title: 'New', track: '2/9' }));
  const { delivery, path, readings } = await written(programmeId, {
    kind: 'wav',
    isPassthrough: true,
    hasLoudnessTags: true,
  });
  expect(delivery.fileName.endsWith(FILE_FORMATS[kind].extensions[0])).toBe(true);
  // What FFmpeg finds coded in both is the same, and so is what it decodes of them.
  expect(await packetsHash(path, name)).toBe(await packetsHash(at(name), name));
  const decoded = (file: string) => ffmpeg('-i', file, '-map', '0:a', '-f', 'hash', '-hash', 'sha256', '-');
  expect(decoded(path)).toBe(decoded(at(name)));
  const source = host.server.sourceReport(sha256)?.readings;
  expect(readings.integratedLufs).toBe(source?.integratedLufs);
  const { tags } = probed(path);
  expect(tags.title).toBe('New');
  expect(tags.replaygain_track_gain ?? tags.r128_track_gain).toBeDefined();
  if (kind === 'mp3') expect(tags.album).toBe('Kept');
});

test.each([16, 32] as const)('tags only: of a WAV of %i bits not a sample changes', async (bits) => {
  const bytes = wavOf(PIECE, { bits, float: bits === 32 });
  const { programmeId, sha256 } = await host.measured(bytes, `their ${bits}.wav`);
  setTags(host.server, programmeId, tagsSchema.parse({ title: 'New' }));
  const { path, format } = await written(programmeId, { kind: 'wav', isPassthrough: true });
  expect(format.bitDepth).toBe(bits);
  expect(await hashSamples(path)).toBe(await hashSamples(host.server.folder.source(sha256)));
  expect(probed(path).tags.title).toBe('New');
});

test('what is no picture is refused, and what can not be kept as it is is said', async () => {
  const { programmeId } = await host.measured(wavOf(PIECE, { bits: 8 }), 'eight.wav');
  await expect(setCover(host.server, programmeId, await pieces(new Uint8Array(20)))).rejects.toThrow(
    'neither PNG nor JPEG',
  );
  await expect(setCover(host.server, programmeId, await pieces(new Uint8Array(11_000_000)))).rejects.toThrow('10 MB');
  expect(coverType(Uint8Array.of(0xff, 0xd8, 0xff, 0xe0))).toBe('image/jpeg');
  const format = deliveryFormatSchema.parse({ kind: 'wav', isPassthrough: true });
  const row = { programmeId, specId: 'archive', format, levelMode: { kind: 'as-set' } } as const;
  expect(() => addRow(host.server, row)).toThrow('its format cannot be written here');
});
