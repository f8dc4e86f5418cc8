/**
 * Parts of films, picture and all, by the command. FFmpeg alone judges what comes out: packets, pictures, times, labels, and where a clap is
 * by the picture.
 */

import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  clapAfterPicture as clapIn,
  clapped,
  firstSeconds as firstIn,
  probed as probedAt,
  CLAP_RATE_HZ as RATE,
} from '../fixtures/clap';
import { opsimeter } from '../fixtures/command';
import { decodedByFfmpeg, ffmpeg, firstDifference } from '../fixtures/ffmpeg';
import { wavOf } from '../fixtures/wav';

const SECONDS = 8;
const CLAP_SECONDS = 5.02;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-cut-'));
const at = (name: string) => join(folder, name);

const probed = (name: string, ...what: string[]) => probedAt(at(name), ...what);
const firstSeconds = (name: string, stream: string) => firstIn(at(name), stream);
/** In seconds. */
const clapAfterPicture = (name: string, track: number) => clapIn(at(name), track) / RATE;

beforeAll(() => {
  const sound = clapped(SECONDS, CLAP_SECONDS * RATE, 0.15);
  writeFileSync(at('clap.wav'), wavOf([sound, sound], { sampleRateHz: RATE, bits: 24 }));
});
afterAll(() => rmSync(folder, { recursive: true }));

/** A film of eight seconds with a key frame a second: two sound tracks with the same clap. */
function film(name: string, picture: readonly string[], [first, second]: readonly [string, string], fps = '25'): void {
  const moving = ['-f', 'lavfi', '-i', `testsrc2=s=160x90:r=${fps}:d=${SECONDS}`];
  const coded = ['-map', '0', '-map', '1', '-map', '1', ...picture, '-c:a:0', first, '-c:a:1', second];
  ffmpeg(...moving, '-i', at('clap.wav'), ...coded, '-strict', '-2', at(name));
}

const H264 = [
  '-c:v',
  'libx264',
  '-g',
  '25',
  '-keyint_min',
  '25',
  '-sc_threshold',
  '0',
  '-bf',
  '2',
  '-pix_fmt',
  'yuv420p',
];
const MPEG2 = ['-c:v', 'mpeg2video', '-b:v', '4M', '-g', '25', '-sc_threshold', '1000000000', '-pix_fmt', 'yuv420p'];
const VP8 = ['-c:v', 'libvpx', '-g', '25', '-keyint_min', '25', '-b:v', '1M', '-deadline', 'realtime'];

function cut(name: string, out: string, ...args: string[]) {
  const {
    out: said,
    err,
    code,
  } = opsimeter('master', at(name), '--spec', 'ebu-r128', '--out', at(out), '--json', ...args);
  return { said: said === '' ? undefined : JSON.parse(said), err, code };
}

/** The bytes of each packet of the picture, hashed by FFmpeg. */
function packetHashes(name: string): string[] {
  const wanted = ['-select_streams', 'V:0', '-show_data_hash', 'MD5', '-show_entries', 'packet=data_hash'];
  return probed(name, ...wanted).packets.map(({ data_hash }: { data_hash: string }) => data_hash);
}

/** Each picture as it is decoded, hashed. */
function pictureHashes(name: string): string[] {
  const lines = ffmpeg('-i', at(name), '-map', '0:V:0', '-f', 'framemd5', '-').toString().split('\n');
  return lines.filter((line) => /^\d/.test(line)).map((line) => line.split(/,\s*/).at(-1) ?? '');
}

test.each([
  ['a.mov', H264, ['pcm_s24le', 'aac'], 0],
  ['b.mp4', H264, ['aac', 'ac3'], 0],
  ['c.mkv', H264, ['pcm_s24le', 'aac'], 0.001],
  ['d.webm', VP8, ['libopus', 'libvorbis'], 0.001],
  ['e.mxf', MPEG2, ['pcm_s24le', 'pcm_s24le'], 0],
] as const)(
  '%s is cut at key frames: packets and pictures are the source’s, sound is in step',
  (name, picture, sound, clockSeconds) => {
    film(name, picture, sound);
    // Asked for from 3.3 to 6.4 s: from the key frame ahead of it to the one behind.
    const { said, err, code } = cut(name, `part-${name}`, '--start', '3.3', '--end', '6.4', '--gain', '0');
    expect({ err, code }).toEqual({ err: '', code: expect.any(Number) });
    expect(said.cut.isRecoded).toBe(false);
    // The picture of a WebM begins later than its sound by what the coder puts ahead.
    const { startFrame, endFrame } = said.cut;
    const aheadFrames = Math.round((firstSeconds(name, 'V:0') - firstSeconds(name, 'a:0')) * RATE);
    expect([startFrame - aheadFrames, endFrame - aheadFrames]).toEqual([3 * RATE, 7 * RATE]);
    expect(said.programmes[0].movedMs).toBeLessThanOrEqual(1000 * clockSeconds);
    expect(packetHashes(`part-${name}`)).toEqual(packetHashes(name).slice(75, 175));
    expect(pictureHashes(`part-${name}`)).toEqual(pictureHashes(name).slice(75, 175));
    // Within two frames of sound, or what the clock of the container rounds.
    for (const track of [0, 1]) {
      const awaySeconds = Math.abs(clapAfterPicture(`part-${name}`, track) - (clapAfterPicture(name, track) - 3));
      expect([track, awaySeconds <= 2 / RATE + clockSeconds]).toEqual([track, true]);
    }
    if (sound[0] !== 'pcm_s24le') return;
    const source = decodedByFfmpeg(at('clap.wav'), 2).map((samples) => samples.subarray(3 * RATE, 7 * RATE));
    ffmpeg('-i', at(`part-${name}`), '-map', '0:a:0', '-c:a', 'pcm_s24le', at('part.wav'));
    expect(firstDifference(decodedByFfmpeg(at('part.wav'), 2), source)).toBeUndefined();
  },
);

test.each([
  ['f.mov', H264, ['pcm_s24le', 'aac'], '30000/1001'],
  ['g.mkv', H264, ['flac', 'flac'], '24'],
  ['h.webm', VP8, ['libopus', 'libopus'], '25'],
  ['i.mxf', MPEG2, ['pcm_s24le', 'pcm_s24le'], '25'],
] as const)('%s is cut to the picture where it is re-encoded, and keeps its time code', (name, picture, sound, fps) => {
  const labelled = name.endsWith('webm') ? [] : ['-timecode', fps === '30000/1001' ? '00:59:58;00' : '01:00:00:00'];
  film(name, [...picture, ...labelled], sound, fps);
  const [perSecond = 0, by = 1] = fps.split('/').map(Number);
  const pictureSeconds = by / perSecond;
  const out = `exact-${name}`;
  const { said, err } = cut(name, out, '--start', '3.3', '--end', '6.4', '--gain', '0', '--recode-picture');
  expect(err).toBe('');
  const [first, end] = [Math.floor(3.3 / pictureSeconds), Math.ceil(6.4 / pictureSeconds)];
  expect(said.cut.isRecoded).toBe(true);
  const aheadFrames = (firstSeconds(name, 'V:0') - firstSeconds(name, 'a:0')) * RATE;
  expect(Math.abs(said.cut.startFrame - first * pictureSeconds * RATE - aheadFrames)).toBeLessThanOrEqual(1);
  expect(Math.abs(said.cut.endFrame - end * pictureSeconds * RATE - aheadFrames)).toBeLessThanOrEqual(1);
  expect(pictureHashes(out)).toHaveLength(end - first);
  const clapAt = clapAfterPicture(name, 0) - first * pictureSeconds;
  expect(Math.abs(clapAfterPicture(out, 0) - clapAt)).toBeLessThan(
    name.endsWith('v') && !name.endsWith('mkv') ? 2 / RATE : 0.0011,
  );
  // Far more like the picture that it stands for than like those beside it.
  const like = (number: number) => Number(/average:(\S+)/.exec(psnr(out, name, number))?.[1]);
  expect(like(first)).toBeGreaterThan(like(first - 1) + 6);
  expect(like(first)).toBeGreaterThan(like(first + 1) + 6);
  // Counted on from 3.3 s: 98 pictures of 29.97 (no label is left out at a whole hour, a tenth minute), 79 of 24, 82 of 25.
  const labels: Record<string, string> = { 'f.mov': '01:00:01;08', 'g.mkv': '01:00:03:07', 'i.mxf': '01:00:03:07' };
  const stated = probed(out, '-show_entries', 'format_tags:stream_tags');
  const tags = [stated.format.tags, ...stated.streams.map((own: { tags?: object }) => own.tags)];
  const found = tags.flatMap((own = {}) => Object.entries(own).filter(([key]) => key.toLowerCase() === 'timecode'));
  expect(new Set(found.map(([, label]) => label))).toEqual(new Set(labels[name] ? [labels[name]] : []));
});

/** How the first pictures of a part are like those of the whole from a number on. */
function psnr(part: string, whole: string, from: number): string {
  const compared = `[0:V]trim=end_frame=20,setpts=N[a];[1:V]trim=start_frame=${from}:end_frame=${from + 20},setpts=N[b];[a][b]psnr=stats_file=-`;
  const args = ['-v', 'info', '-i', at(part), '-i', at(whole), '-filter_complex', compared, '-f', 'null', '-'];
  return (
    execFileSync('sh', ['-c', `ffmpeg ${args.map((arg) => `'${arg}'`).join(' ')} 2>&1`])
      .toString()
      .split('\n')
      .findLast((line) => line.includes('average:')) ?? ''
  );
}

test('each span of a list is a film of its own, with its chapters and its time code; one that cannot be costs no other', () => {
  const chapters = [';FFMETADATA1', '[CHAPTER]', 'TIMEBASE=1/1', 'START=0', 'END=4', 'title=One'];
  writeFileSync(
    at('chapters.txt'),
    [...chapters, '[CHAPTER]', 'TIMEBASE=1/1', 'START=4', 'END=8', 'title=Two', ''].join('\n'),
  );
  film('acts.mov', [...H264, '-timecode', '10:00:00:00'], ['pcm_s24le', 'aac']);
  ffmpeg(
    '-i',
    at('acts.mov'),
    '-i',
    at('chapters.txt'),
    '-map',
    '0',
    '-dn',
    '-map_chapters',
    '1',
    '-c',
    'copy',
    at('acts 2.mov'),
  );
  writeFileSync(
    at('acts.csv'),
    'start,end,name\n10:00:01:05,10:00:01:20,One\n10:00:04:00,10:00:06:00,Two\n10:00:09:00,10:00:09:10,Gone\n',
  );
  const { said, err, code } = cut('acts 2.mov', 'act.mov', '--spans', at('acts.csv'), '--gain', '0');
  expect(err).toContain('line 4 is left out');
  expect(code).not.toBe(2);
  expect(said.map(({ cut: own }: { cut: { edges: string[] } }) => own.edges)).toEqual([
    ['10:00:01:00', '10:00:02:00'],
    ['10:00:04:00', '10:00:06:00'],
  ]);
  expect(packetHashes('act 01 One.mov')).toEqual(packetHashes('acts.mov').slice(25, 50));
  expect(packetHashes('act 02 Two.mov')).toEqual(packetHashes('acts.mov').slice(100, 150));
  const { chapters: left } = probed('act 02 Two.mov', '-show_chapters');
  expect(
    left.map((own: { start_time: string; tags: { title: string } }) => [Number(own.start_time), own.tags.title]),
  ).toEqual([[0, 'Two']]);
  expect(JSON.stringify(probed('act 02 Two.mov', '-show_entries', 'stream_tags=timecode'))).toContain('10:00:04:00');
});

test('key frames ten seconds apart are found, wherever the span ends between them', () => {
  const moving = ['-f', 'lavfi', '-i', 'testsrc2=s=64x36:r=25:d=40', '-f', 'lavfi', '-i', 'sine=d=40:r=48000'];
  const coded = ['-c:v', 'libx264', '-g', '250', '-keyint_min', '250', '-sc_threshold', '0', '-pix_fmt', 'yuv420p'];
  ffmpeg(...moving, ...coded, '-c:a', 'pcm_s24le', at('long.mov'));
  for (const [end, from, to] of [
    ['23.9', 0, 750],
    ['20', 0, 500],
    ['39', 0, 1000],
  ] as const) {
    expect(cut('long.mov', `long-${end}.mov`, '--start', '3.3', '--end', end).err).toBe('');
    expect(packetHashes(`long-${end}.mov`)).toEqual(packetHashes('long.mov').slice(from, to));
  }
});

test('what cannot be cut is refused with what to do, and nothing is written', () => {
  const open = [...MPEG2.slice(0, -2), '-bf', '2', '-flags', '-cgop', '-pix_fmt', 'yuv420p'];
  film('open.mxf', open, ['pcm_s24le', 'pcm_s24le']);
  const refused = cut('open.mxf', 'no.mxf', '--start', '3.3', '--end', '6');
  expect(refused).toMatchObject({ code: 2, err: expect.stringContaining('open GOP') });
  expect(refused.err).toContain('--recode-picture');
  expect(cut('open.mxf', 'no.mxf', '--recode-picture').err).toContain('--start');
  expect(cut('open.mxf', 'no.mxf', '--start', '3', '--end', '2').err).toContain('Nothing is left');
  expect(existsSync(at('no.mxf'))).toBe(false);
  // With its picture re-encoded it can be.
  expect(cut('open.mxf', 'yes.mxf', '--start', '3.3', '--end', '6', '--recode-picture').err).toBe('');
  expect(pictureHashes('yes.mxf')).toHaveLength(150 - 82);
});
