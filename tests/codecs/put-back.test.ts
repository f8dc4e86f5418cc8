import { existsSync, mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import {
  clapAfterPicture as clapIn,
  clapped,
  firstSeconds as firstIn,
  probed as probedAt,
  CLAP_RATE_HZ as RATE,
} from '../fixtures/clap';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { decodedByFfmpeg, ffmpeg, firstDifference } from '../fixtures/ffmpeg';
import { wavOf } from '../fixtures/wav';

const CLAP_FRAME = 1.02 * RATE;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-back-'));
const at = (name: string) => join(folder, name);
const moving = (seconds: number, framesPerSecond = '25') => [
  '-f',
  'lavfi',
  '-i',
  `testsrc2=s=160x90:r=${framesPerSecond}:d=${seconds}`,
];

const probed = (name: string, ...what: string[]) => probedAt(at(name), ...what);
const firstSeconds = (name: string, stream: string) => firstIn(at(name), stream);
const clapAfterPicture = (name: string) => clapIn(at(name));

beforeAll(() => {
  const sound = clapped(3, CLAP_FRAME);
  writeFileSync(at('clap.wav'), wavOf([sound, sound], { sampleRateHz: RATE }));
});
afterAll(() => rmSync(folder, { recursive: true }));

/** The packets of a stream: bytes, and when each is shown from the first on, in milliseconds. */
function packets(name: string, stream: string): string[] {
  const lines = ffmpeg('-i', at(name), '-map', `0:${stream}`, '-c', 'copy', '-f', 'framemd5', '-')
    .toString()
    .split('\n');
  const seconds = (/#tb 0: (\d+)\/(\d+)/.exec(lines.join('\n')) ?? []).slice(1).map(Number);
  const read = lines.filter((line) => /^\d/.test(line)).map((line) => line.split(/,\s*/));
  const first = Math.min(...read.map(([, , pts]) => Number(pts)));
  return read.map(
    ([, , pts, , size, hash]) =>
      `${Math.round((1000 * (Number(pts) - first) * (seconds[0] ?? 1)) / (seconds[1] ?? 1))} ${size} ${hash}`,
  );
}

/** All bytes of a stream: PCM is read in packets of any size. */
function bytes(name: string, stream: string): string {
  return ffmpeg(
    '-i',
    at(name),
    '-map',
    `0:${stream}`,
    '-c',
    'copy',
    '-f',
    'streamhash',
    '-hash',
    'md5',
    '-',
  ).toString();
}

function putBack(name: string, ...args: string[]) {
  const ran = opsimeter('master', at(name), '--spec', 'ebu-r128', '--out', at(`back-${name}`), '--json', ...args);
  expect(ran.err).toBe('');
  return JSON.parse(ran.out);
}

/** Matroska counts milliseconds: picture and sound are each rounded to one. */
const MILLISECOND = RATE / 1000;

test.each([
  ['a.mov', 'mpeg4', 'pcm_s24le', 'pcm', 0.52, 0],
  ['b.mov', 'libx264', 'aac', 'aac', 0.52, 0],
  ['c.mp4', 'libx264', 'aac', 'aac', 0, 0],
  ['d.mp4', 'libx264', 'flac', 'flac', 0.52, 0],
  ['e.mp4', 'libx264', 'libopus', 'opus', 0.52, 0],
  ['f.mp4', 'libx264', 'ac3', 'ac3', 0, 0],
  ['n.mov', 'libx264', 'ac3', 'ac3', 0.52, 0],
  ['o.mkv', 'libx264', 'ac3', 'ac3', 0, MILLISECOND],
  ['g.mkv', 'libx264', 'flac', 'flac', 0.52, 0],
  ['h.mkv', 'mpeg4', 'pcm_s16le', 'pcm', 0, 0],
  ['i.mkv', 'libx264', 'aac', 'aac', 0, MILLISECOND],
  ['j.mkv', 'libx264', 'libopus', 'opus', 0, MILLISECOND],
  ['l.webm', 'libvpx', 'libvorbis', 'vorbis', 0.52, MILLISECOND],
  // MXF as FFmpeg writes it begins all its tracks at once.
  ['m.mxf', 'mpeg2video', 'pcm_s24le', 'pcm', 0, 0],
])(
  '%s, %s with %s: picture untouched, sound landed and in step',
  (name, picture, sound, codec, lateSeconds, withinFrames) => {
    const heard = ['-itsoffset', String(lateSeconds), '-i', at('clap.wav'), '-c:a', sound, '-strict', '-2'];
    ffmpeg(...moving(3), ...heard, '-c:v', picture, '-timecode', '10:00:00:00', at(name));
    const { programmes, copiedStreams } = putBack(name);
    const back = `back-${name}`;
    expect(copiedStreams).toBe(probed(name, '-show_streams').streams.length - 1);
    expect(programmes).toMatchObject([{ codec, verdict: { inside: true } }]);
    expect(packets(back, 'v:0')).toEqual(packets(name, 'v:0'));
    expect(Math.abs(clapAfterPicture(back) - clapAfterPicture(name))).toBeLessThanOrEqual(withinFrames + 0.5);
    expect(Math.abs(ffmpegLoudness(at(back)).integratedLufs + 23)).toBeLessThan(0.2);
    const durationOf = (file: string) => Number(probed(file, '-show_format').format.duration);
    // A coder's last packet is played out.
    const packetFrames = codec === 'ac3' ? 1536 : 1024;
    const lastPacketSeconds = codec === 'pcm' || codec === 'flac' ? 0.001 : packetFrames / RATE + 0.022;
    expect(Math.abs(durationOf(back) - durationOf(name))).toBeLessThanOrEqual(lastPacketSeconds);
  },
);

test('eight mono tracks of an MXF become stereo and 5.1, both at EBU R 128, and are eight mono tracks again', () => {
  const tones = Array.from({ length: 8 }, (_, i) => [
    '-f',
    'lavfi',
    '-i',
    `sine=f=${300 + 100 * i}:r=${RATE}:d=4,volume=-${3 * i}dB`,
  ]).flat();
  const mapped = Array.from({ length: 9 }, (_, i) => ['-map', `${i}`]).flat();
  const written = ['-c:v', 'mpeg2video', '-c:a', 'pcm_s24le', '-timecode', '10:00:00:00'];
  ffmpeg(...moving(4), ...tones, ...mapped, ...written, at('eight.mxf'));
  const { programmes } = putBack('eight.mxf', '--tracks', '1+2,3-8');
  expect(programmes).toMatchObject([
    { tracks: [1, 2], format: { layout: 'stereo' }, verdict: { inside: true } },
    { tracks: [3, 4, 5, 6, 7, 8], format: { layout: '5.1' }, verdict: { inside: true } },
  ]);
  const { streams, format } = probed('back-eight.mxf', '-show_streams', '-show_format');
  expect(streams.map((stream: { channels?: number }) => stream.channels)).toEqual([undefined, 1, 1, 1, 1, 1, 1, 1, 1]);
  expect(format.tags.timecode).toBe('10:00:00:00');
  expect(packets('back-eight.mxf', 'v:0')).toEqual(packets('eight.mxf', 'v:0'));
  // FFmpeg's own meter, of channels that it puts together itself.
  const together = (tracks: readonly number[], layout: string) => {
    const inputs = tracks.map((track) => `[0:a:${track - 1}]`).join('');
    const maps = tracks.map((_, i) => `${i}.0-${['FL', 'FR', 'FC', 'LFE', 'BL', 'BR'][i]}`).join('|');
    const join = `${inputs}join=inputs=${tracks.length}:channel_layout=${layout}:map=${maps}`;
    ffmpeg('-i', at('back-eight.mxf'), '-filter_complex', join, '-c:a', 'pcm_s24le', at('together.wav'));
    return ffmpegLoudness(at('together.wav')).integratedLufs;
  };
  expect(together([1, 2], 'stereo')).toBeCloseTo(-23, 1);
  expect(together([3, 4, 5, 6, 7, 8], '5.1')).toBeCloseTo(-23, 1);
  // Each channel is in its own track: the tone of it, at the gain of its programme.
  const tone = (name: string, track: number) => {
    ffmpeg('-i', at(name), '-map', `0:a:${track - 1}`, '-c:a', 'pcm_f32le', at('one.wav'));
    return decodedByFfmpeg(at('one.wav'), 1)[0] ?? new Float32Array();
  };
  for (const [i, { gainDb }] of [0, 0, 1, 1, 1, 1, 1, 1].map((p) => programmes[p]).entries()) {
    const gain = 10 ** (gainDb / 20);
    const [before, after] = [tone('eight.mxf', i + 1), tone('back-eight.mxf', i + 1)];
    expect(after.length).toBe(before.length);
    const off = after.findIndex((sample, k) => Math.abs(sample - gain * (before[k] ?? 0)) > 2 ** -22);
    expect(off).toBe(-1);
  }
});

describe('a film with other tracks, subtitles, chapters, tags and a cover', () => {
  const rich = (name: string, sound: string, subtitles: string, ...more: string[]) => {
    writeFileSync(at('s.srt'), '1\n00:00:00,500 --> 00:00:01,500\nHello\n\n2\n00:00:02,000 --> 00:00:03,000\nWorld\n');
    const chapter = (from: number, to: number, title: string) =>
      `[CHAPTER]\nTIMEBASE=1/1000\nSTART=${from}\nEND=${to}\ntitle=${title}\n`;
    const said = `;FFMETADATA1\ntitle=The reel\ncreation_time=2026-01-02T03:04:05.000000Z\n`;
    writeFileSync(at('said.txt'), said + chapter(0, 1500, 'One') + chapter(1500, 3000, 'Two'));
    const inputs = ['-i', at('clap.wav'), '-i', at('clap.wav'), '-i', at('s.srt'), '-i', at('said.txt')];
    const mapped = [
      '-map',
      '0:v',
      '-map',
      '1:a',
      '-map',
      '2:a',
      '-map',
      '3:s',
      '-map_metadata',
      '4',
      '-map_chapters',
      '4',
    ];
    const named = [
      '-metadata:s:a:0',
      'language=eng',
      '-metadata:s:a:1',
      'language=nor',
      '-metadata:s:a:1',
      'title=Effects',
    ];
    const kinds = ['-disposition:a:0', 'default', '-disposition:a:1', 'comment', '-c:v', 'libx264', '-bf', '2'];
    ffmpeg(...moving(3), ...inputs, ...mapped, ...named, ...kinds, '-c:a', sound, '-c:s', subtitles, ...more, at(name));
  };
  const STATED = ['codec_type', 'codec_name', 'width', 'channels', 'channel_layout', 'disposition'] as const;
  /** Coders and containers state these of themselves. */
  const OWN = /^(encoder|duration|vendor_id|handler_name)$/i;
  const facts = (name: string) => {
    const { streams, chapters, format } = probed(name, '-show_streams', '-show_chapters', '-show_format');
    const tags = (all: Record<string, string> = {}) =>
      Object.fromEntries(
        Object.entries(all)
          .filter(([tag]) => !OWN.test(tag))
          .map(([tag, value]) => [tag.toLowerCase(), value]),
      );
    // What chapters and time code are kept in may stand in another place.
    const listed = streams.filter((stream: { codec_type: string }) => stream.codec_type !== 'data');
    const counted = streams.filter((stream: { tags?: { timecode?: string } }) => stream.tags?.timecode);
    return {
      streams: listed.map((stream: Record<string, unknown>) => ({
        ...Object.fromEntries(STATED.map((fact) => [fact, stream[fact]])),
        tags: tags(stream.tags as Record<string, string>),
      })),
      chapters: chapters.map((own: { start_time: string; end_time: string; tags: object }) => [
        own.start_time,
        own.end_time,
        own.tags,
      ]),
      tags: tags(format.tags),
      labels: counted.map((stream: { tags: { timecode: string } }) => stream.tags.timecode),
    };
  };

  test.each([
    ['rich.mp4', 'aac', 'mov_text', []],
    ['rich.mov', 'pcm_s16be', 'mov_text', ['-timecode', '01:00:00:00']],
    ['rich.mkv', 'libopus', 'srt', ['-attach', 'cover.png', '-metadata:s:t', 'mimetype=image/png']],
  ])('%s keeps all of it', (name, sound, subtitles, more) => {
    ffmpeg(...moving(1), '-frames:v', '1', at('cover.png'));
    rich(name, sound, subtitles, ...more.map((own) => (own === 'cover.png' ? at(own) : own)));
    const before = readdirSync(folder);
    putBack(name);
    expect(readdirSync(folder)).toEqual([...before, `back-${name}`].toSorted());
    expect(facts(`back-${name}`)).toEqual(facts(name));
    for (const stream of ['v:0', 's:0']) expect(packets(`back-${name}`, stream)).toEqual(packets(name, stream));
    expect(bytes(`back-${name}`, 'a:1')).toBe(bytes(name, 'a:1'));
    const apart = (file: string) => firstSeconds(file, 'a:1') - firstSeconds(file, 'v:0');
    expect(Math.abs(apart(`back-${name}`) - apart(name))).toBeLessThan(name.endsWith('mkv') ? 0.001_1 : 1e-5);
  });

  test('the second track can be treated and the first left alone', () => {
    rich('second.mov', 'pcm_s24le', 'mov_text');
    const { programmes } = putBack('second.mov', '--tracks', '2');
    expect(programmes).toMatchObject([{ tracks: [2], verdict: { inside: true } }]);
    expect(bytes('back-second.mov', 'a:0')).toBe(bytes('second.mov', 'a:0'));
    expect(bytes('back-second.mov', 'a:1')).not.toBe(bytes('second.mov', 'a:1'));
  });
});

test('drop-frame time code stays drop-frame', () => {
  const sound = ['-i', at('clap.wav'), '-c:v', 'mpeg4', '-c:a', 'pcm_s24le', '-timecode', '01:00:00;02'];
  ffmpeg(...moving(3, '30000/1001'), ...sound, at('drop.mov'));
  putBack('drop.mov');
  const labels = probed('back-drop.mov', '-show_streams').streams.map(
    (own: { tags: { timecode: string } }) => own.tags.timecode,
  );
  expect(labels).toEqual(['01:00:00;02', undefined, '01:00:00;02']);
});

test('a film that was cut between two key frames is in step, with what lies ahead of its cut', () => {
  const sound = ['-i', at('clap.wav'), '-c:v', 'libx264', '-bf', '2', '-c:a', 'aac'];
  ffmpeg(...moving(3), ...sound, at('whole.mp4'));
  ffmpeg('-ss', '0.7', '-i', at('whole.mp4'), '-c', 'copy', at('cut.mp4'));
  putBack('cut.mp4');
  expect(clapAfterPicture('back-cut.mp4')).toBeCloseTo(clapAfterPicture('cut.mp4'), 0);
  const shown = (name: string) => ffmpeg('-i', at(name), '-map', '0:v', '-f', 'md5', '-').toString();
  expect(shown('back-cut.mp4')).toBe(shown('cut.mp4'));
});

test('PCM goes back sample for sample as a WAV of the same master has it', () => {
  ffmpeg(...moving(3), '-i', at('clap.wav'), '-c:v', 'mpeg4', '-c:a', 'pcm_s24be', at('exact.mov'));
  putBack('exact.mov');
  expect(opsimeter('master', at('exact.mov'), '--spec', 'ebu-r128', '--out', at('exact.wav')).code).toBe(0);
  ffmpeg('-i', at('back-exact.mov'), '-map', '0:a', '-c:a', 'pcm_s24le', at('read.wav'));
  expect(firstDifference(decodedByFfmpeg(at('read.wav'), 2), decodedByFfmpeg(at('exact.wav'), 2))).toBeUndefined();
  expect(probed('back-exact.mov', '-show_streams').streams[1]).toMatchObject({ codec_name: 'pcm_s24be' });
});

test('what can not be done is said, and leaves nothing', () => {
  ffmpeg(...moving(3), '-i', at('clap.wav'), '-c:v', 'libx264', '-c:a', 'aac', at('film.mp4'));
  const before = readdirSync(folder);
  const refused = (out: string, ...args: string[]) => {
    const { code, err } = opsimeter('master', at('film.mp4'), '--spec', 'ebu-r128', '--out', at(out), ...args);
    expect(code).toBe(2);
    return err;
  };
  expect(refused('film.mov')).toContain('which is MPEG-4');
  expect(refused('film.mp4')).toContain('already');
  expect(refused('new.mp4', '--codec', 'pcm')).toContain('--codec is one of aac, ac3, flac, opus');
  expect(refused('new.mp4', '--padding-start', '1')).toContain('keeps its length');
  expect(refused('nowhere/new.mp4')).toContain('nowhere');
  expect(refused('new.mp4', '--title', 'x')).toContain('keeps its own tags');
  expect(refused('new.mp4', '--tracks', '2')).toContain('has no sound track 2');
  expect(refused('new.wav', '--codec', 'aac')).toContain('--codec is for films');
  expect(refused('new.wav', '--tracks', '1,2')).toContain('Several programmes go into a film');
  expect(readdirSync(folder)).toEqual(before);
  expect(existsSync(at('new.mp4'))).toBe(false);
});
