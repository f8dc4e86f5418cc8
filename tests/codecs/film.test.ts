/** Films as FFmpeg writes them: what they state of picture and time code, held against FFmpeg's own counting and a clap that is found. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { decode } from '@/codecs/decode';
import { probe, probeMetadata } from '@/codecs/probe';
import { formatTimeCode, parseTimeCode, pictureFrameRate, type TimeCodeRate, timeCodeAt } from '@/core/units/time-code';
import { opsimeter } from '../fixtures/command';
import { decodedByFfmpeg, ffmpeg } from '../fixtures/ffmpeg';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
/** In the middle of a picture frame of 25 a second: Matroska rounds times to milliseconds. */
const CLAP_SECONDS = 1.02;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-film-'));
const at = (name: string) => join(folder, name);

beforeAll(() => {
  const clap = (i: number) => (i >= 0 && i < 480 ? 0.8 * Math.sin((2 * Math.PI * 1000 * i) / RATE) : 0);
  const sound = Float32Array.from({ length: 3 * RATE }, (_, i) => clap(i - CLAP_SECONDS * RATE));
  writeFileSync(at('clap.wav'), wavOf([sound], { sampleRateHz: RATE }));
});
afterAll(() => rmSync(folder, { recursive: true }));

function film(
  name: string,
  picture: string,
  sound: string,
  { label = '01:00:00:00', framesPerSecond = '25', lateSeconds = 0 } = {},
): void {
  const moving = ['-f', 'lavfi', '-i', `testsrc2=s=160x90:r=${framesPerSecond}:d=3`];
  const heard = ['-itsoffset', String(lateSeconds), '-i', at('clap.wav'), '-c:a', sound];
  ffmpeg(...moving, ...heard, '-c:v', picture, '-timecode', label, at(name));
}

async function stated(name: string) {
  const probed = await probe(at(name), name);
  return { probed, metadata: await probeMetadata(at(name), name, probed.format) };
}

/** Where the clap is in the sound that a film is decoded to: where it correlates most. */
async function clapFrame(name: string, probed: Awaited<ReturnType<typeof probe>>): Promise<number> {
  await decode(at(name), probed, at('decoded.wav'), name);
  const [samples = new Float32Array()] = decodedByFfmpeg(at('decoded.wav'), 1);
  const loud = samples.findIndex((sample) => Math.abs(sample) > 0.2);
  let best = { frame: 0, product: 0 };
  for (let frame = Math.max(0, loud - 500); frame < loud + 500; frame++) {
    let product = 0;
    for (let i = 0; i < 480; i++) product += (samples[frame + i] ?? 0) * Math.sin((2 * Math.PI * 1000 * i) / RATE);
    if (product > best.product) best = { frame, product };
  }
  return best.frame;
}

test.each([
  ['PCM in MOV', 'a.mov', 'mpeg4', 'pcm_s24le', 'QuickTime', 'MPEG-4 Visual'],
  ['AAC in MOV', 'b.mov', 'libx264', 'aac', 'QuickTime', 'H.264'],
  ['AAC in MP4', 'c.mp4', 'libx264', 'aac', 'MPEG-4', 'H.264'],
  ['AC-3 in MP4', 'd.mp4', 'libx264', 'ac3', 'MPEG-4', 'H.264'],
  ['AAC in Matroska', 'e.mkv', 'libx264', 'aac', 'Matroska', 'H.264'],
  ['Opus in Matroska', 'f.mkv', 'libx264', 'libopus', 'Matroska', 'H.264'],
  ['Vorbis in WebM', 'g.webm', 'libvpx', 'libvorbis', 'Matroska', 'VP8'],
  ['PCM in MXF', 'h.mxf', 'mpeg2video', 'pcm_s24le', 'MXF', 'MPEG-2'],
])('%s: a clap is found at its time code, late sound or not', async (_name, file, picture, sound, container, codec) => {
  // MXF as FFmpeg writes it begins all its tracks at once.
  for (const lateSeconds of container === 'MXF' ? [0] : [0, 0.52]) {
    film(file, picture, sound, { lateSeconds });
    const { probed, metadata } = await stated(file);
    expect(probed.format.container).toBe(container);
    expect(metadata.picture).toEqual({ codec, widthPx: 160, heightPx: 90, framesPerSecond: 25 });
    expect(metadata.timeCode).toMatchObject({ rate: '25', pictureFrame: 90_000 });
    const frame = await clapFrame(file, probed);
    const shown = metadata.timeCode && timeCodeAt(metadata.timeCode, frame, RATE);
    expect(shown).toBe(formatTimeCode(90_000 + Math.floor(25 * (CLAP_SECONDS + lateSeconds)), '25'));
  }
});

test('sound that is uncompressed has its time code to the frame', async () => {
  film('exact.mov', 'mpeg4', 'pcm_s24le', { lateSeconds: 0.5 });
  const { metadata } = await stated('exact.mov');
  expect(metadata.timeCode).toEqual({ rate: '25', pictureFrame: 90_000, offsetFrames: 24_000 });
});

test('a master of a film begins where its film does: the time reference, as FFmpeg reads it', async () => {
  film('reel.mov', 'mpeg4', 'pcm_s24le', { label: '01:00:00;00', framesPerSecond: '30000/1001', lateSeconds: 0.5 });
  const made = opsimeter('master', at('reel.mov'), '--spec', 'ebu-r128', '--start', '1', '--out', at('reel.wav'));
  expect(made).toMatchObject({ code: 0 });
  const { tags } = JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-show_format', '-of', 'json', at('reel.wav')]).toString(),
  ).format;
  // The chunk that location recorders write, as its bytes stand there.
  const xml = readFileSync(at('reel.wav')).toString('latin1');
  expect(xml).toContain('<TIMECODE_RATE>30000/1001</TIMECODE_RATE><TIMECODE_FLAG>DF</TIMECODE_FLAG>');
  expect(Number(/MIDNIGHT_LO>(\d+)/.exec(xml)?.[1])).toBe(Number(tags.time_reference));
  const [read] = JSON.parse(opsimeter('measure', at('reel.wav'), '--json').out);
  // A second and a half after 01:00:00;00 are 44.96 pictures.
  expect(read.metadata.timeCode.label).toBe('01:00:01;14');
  // 107,892 pictures by 1001 / 30,000 s, half a second until the sound begins, and a second that was cut off it.
  expect(Number(tags.time_reference)).toBe(Math.ceil((107_892 * 1001 * RATE) / 30_000) + 1.5 * RATE);
});

test.each([
  ['23.976', '24000/1001', '23:59:59:23'],
  ['25', '25', '10:00:00:00'],
  ['29.97', '30000/1001', '01:00:00:00'],
  ['29.97-drop', '30000/1001', '01:00:00;00'],
  ['29.97-drop', '30000/1001', '09:59:59;29'],
  ['29.97-drop', '30000/1001', '23:59:00;02'],
  ['59.94-drop', '60000/1001', '10:01:00;04'],
] as const)('at %s (%s), %s is the picture frame that FFmpeg counts', async (rate, framesPerSecond, label) => {
  film('counted.mov', 'mpeg4', 'pcm_s16le', { framesPerSecond, label });
  const { metadata } = await stated('counted.mov');
  expect(metadata.timeCode?.rate).toBe<TimeCodeRate>(rate);
  // The one sample of the time code's track: the number of the first picture frame (QuickTime File Format, from memory).
  const sample = ffmpeg('-i', at('counted.mov'), '-map', '0:d', '-c', 'copy', '-f', 'data', '-');
  expect(metadata.timeCode?.pictureFrame).toBe(sample.readUInt32BE());
  expect(parseTimeCode(label, rate)).toBe(sample.readUInt32BE());
  expect(metadata.picture?.framesPerSecond).toBeCloseTo(pictureFrameRate(rate), 6);
});

test('a film without time code has none, and a record with a cover is no film', async () => {
  const moving = ['-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=1'];
  ffmpeg(...moving, '-i', at('clap.wav'), '-c:v', 'mpeg4', '-c:a', 'aac', at('plain.mp4'));
  const { metadata } = await stated('plain.mp4');
  expect(metadata).toMatchObject({ timeCode: null, picture: { codec: 'MPEG-4 Visual', framesPerSecond: 25 } });
  ffmpeg(...moving, '-frames:v', '1', at('cover.png'));
  const cover = ['-i', at('cover.png'), '-map', '0:a', '-map', '1:v', '-c:v', 'copy', '-disposition:v', 'attached_pic'];
  ffmpeg('-i', at('clap.wav'), ...cover, '-c:a', 'flac', at('record.flac'));
  expect((await stated('record.flac')).metadata).toMatchObject({ timeCode: null, picture: null });
});
