/**
 * Records of a job file, looked at by other programs: cuetools, flac and metaflac, FFmpeg and ffprobe, SoX and mpg123. Twelve pieces with
 * gaps, without one, and with crossfades.
 */
import { execFileSync } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { parse } from 'csv-parse/sync';
import { dbToAmplitude } from '@/core/units/decibel';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { ffmpeg } from '../fixtures/ffmpeg';
import { musicLike } from '../fixtures/material';
import { wavOf } from '../fixtures/wav';

const RATE = 44_100;
const SECTOR = 588;
/** Behind each of the twelve. */
const GAPS = [2, 0, -1.5, 0.7, 1.3, 0, 0, -3, 2.5, 0.01, 2, 0];
const { abs } = Math;

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-record-'));
const at = (...names: string[]) => join(folder, ...names);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const tracks = GAPS.map((gapSeconds, i) => ({
  file: `${String(i + 1).padStart(2, '0')}.wav`,
  title: `Piece ${i + 1}: "dusk", ä`,
  gapSeconds,
  tags: { isrc: `QDA1A26000${String(i + 1).padStart(2, '0')}`, artist: i === 4 ? 'A guest' : '' },
}));
const NAME = 'Songs for the dome';
const record = { name: NAME, artist: 'The Quillmere', catalogNumber: '4006381333931', tracks };

/** Writes a record, and returns what the command says of it. */
function write(output: string, change: object) {
  const job = { output, records: [{ ...record, spec: 'cd-master', ...change }] };
  writeFileSync(at(`${output}.json`), JSON.stringify(job));
  const { code, out, err } = opsimeter('deliver', at(`${output}.json`), '--json');
  return { code, err, written: JSON.parse(out || '[null]')[0], path: (name: string) => at(output, NAME, name) };
}

/** Samples of files one after the other, as SoX reads them: interleaved, 32-bit integers. */
function bytesOf(...paths: string[]): Buffer {
  return execFileSync('sox', [...paths, '-t', 'raw', '-e', 'signed', '-b', '32', '-'], { maxBuffer: 1 << 28 });
}
function samplesOf(...paths: string[]): Int32Array {
  const raw = bytesOf(...paths);
  return new Int32Array(raw.buffer, raw.byteOffset, raw.length / 4);
}
/** Greatest difference of two, full scale being 1. */
function difference(a: Int32Array, b: Int32Array, length = a.length): number {
  let most = 0;
  for (let i = 0; i < length; i++) most = Math.max(most, abs((a[i] ?? 0) - (b[i] ?? 0)));
  return most / 2 ** 31;
}

beforeAll(() => {
  const music = musicLike();
  const frames = music[0]?.length ?? 0;
  tracks.forEach(({ file }, i) => {
    const length = 6 * RATE + 7919 * i;
    const start = (i * 104_729) % (frames - length);
    const gain = dbToAmplitude(-10 + ((i * 7) % 8));
    writeFileSync(
      at(file),
      wavOf(
        music.map((samples) => samples.slice(start, start + length).map((x) => gain * x)),
        { sampleRateHz: RATE },
      ),
    );
  });
});

describe('as one file for a CD', () => {
  let whole: ReturnType<typeof write>;
  beforeAll(() => {
    whole = write('cd', { format: { kind: 'wav', bitDepth: 16 }, isForCd: true });
  });

  test('it meets what its spec and a CD ask, and nothing else is left in its folder', () => {
    expect({ code: whole.code, err: whole.err }).toEqual({ code: 0, err: '' });
    expect(readdirSync(at('cd'))).toEqual([NAME]);
    expect(readdirSync(at('cd', NAME)).sort()).toEqual([`${NAME}.csv`, `${NAME}.cue`, `${NAME}.wav`]);
    expect(whole.written.cd.every(({ inside }: { inside: boolean }) => inside)).toBe(true);
    expect(whole.written.frames % SECTOR).toBe(0);
  });

  test('its audio is what FFmpeg joins of the same files, but for the rounding of 16 bits', () => {
    const last = tracks.length - 1;
    const steps = tracks.slice(1).map((_, i) => {
      const [from, gap] = [i === 0 ? '[0]' : `[x${i}]`, GAPS[i] as number];
      const to = `[x${i + 1}]`;
      if (gap < 0) return `${from}[${i + 1}]acrossfade=d=${-gap}:c1=qsin:c2=qsin${to}`;
      const padding = Math.round(gap * RATE);
      return `${from}apad=pad_len=${padding}[p${i}];[p${i}][${i + 1}]concat=n=2:v=0:a=1${to}`;
    });
    ffmpeg(
      ...tracks.flatMap(({ file }) => ['-i', at(file)]),
      ...['-filter_complex', steps.join(';'), '-map', `[x${last}]`, '-c:a', 'pcm_s24le', at('by-ffmpeg.wav')],
    );
    const [ours, theirs] = [samplesOf(whole.path(`${NAME}.wav`)), samplesOf(at('by-ffmpeg.wav'))];
    expect(ours.length - theirs.length).toBeLessThan(2 * SECTOR);
    expect(ours.length).toBeGreaterThanOrEqual(theirs.length);
    // Dither of ±1 and rounding of half a step; a crossfade whose curves are half a sample apart.
    expect(difference(ours, theirs, theirs.length)).toBeLessThan(2.6 / 2 ** 15);
  });

  test('its loudness is that of its file, measured again, and within 0.05 LU of what FFmpeg reads', () => {
    const path = whole.path(`${NAME}.wav`);
    const { integratedLufs } = whole.written.readings;
    const { out } = opsimeter('measure', path, '--json');
    expect(abs(JSON.parse(out)[0].readings.integratedLufs - integratedLufs)).toBeLessThan(1e-9);
    expect(abs(ffmpegLoudness(path).integratedLufs - integratedLufs)).toBeLessThanOrEqual(0.06);
  });

  test('its cue sheet is read by cuetools: titles, ISRCs and breaks', () => {
    const cue = whole.path(`${NAME}.cue`);
    const told = execFileSync('cueprint', ['-t', '%n|%t|%p|%i\n', cue], { encoding: 'utf8' }).trim().split('\n');
    expect(told).toEqual(
      tracks.map(({ title, tags }, i) =>
        [i + 1, title.replaceAll('"', "'"), tags.artist || 'The Quillmere', tags.isrc].join('|'),
      ),
    );
    expect(execFileSync('cueprint', ['-d', '%N|%T|%P', cue], { encoding: 'utf8' })).toBe(`12|${NAME}|The Quillmere`);
    const breaks = execFileSync('cuebreakpoints', [cue], { encoding: 'utf8' }).trim().split('\n');
    const starts = whole.written.tracks.map(({ startFrame }: { startFrame: number }) => startFrame / SECTOR);
    expect(breaks).toHaveLength(11);
    expect(breaks.map(sectorsOf)).toEqual(starts.slice(1));
    expect(readFileSync(cue, 'utf8')).toMatch(/^CATALOG 4006381333931\r\n/);
  });

  test('its cue points are read by FFmpeg’s own look at the file, and by ours', () => {
    const bytes = readFileSync(whole.path(`${NAME}.wav`));
    const cue = bytes.indexOf('cue ');
    expect(bytes.readUInt32LE(cue + 8)).toBe(12);
    const places = Array.from({ length: 12 }, (_, i) => bytes.readUInt32LE(cue + 12 + 24 * i + 20));
    expect(places).toEqual(whole.written.tracks.map(({ startFrame }: { startFrame: number }) => startFrame));
    const { out } = opsimeter('measure', whole.path(`${NAME}.wav`), '--json');
    expect(JSON.parse(out)[0].metadata.markers.map(({ label }: { label: string }) => label)).toEqual(
      tracks.map(({ title }) => title),
    );
  });

  test('its track sheet says where everything is, and what it measures', () => {
    const [, ...rows] = parse(readFileSync(whole.path(`${NAME}.csv`), 'utf8')) as string[][];
    expect(rows.map((row) => row[3])).toEqual(tracks.map(({ tags }) => tags.isrc));
    const path = whole.path(`${NAME}.wav`);
    rows.forEach((row, i) => {
      const from = Number(row[7]);
      const to = Number(rows[i + 1]?.[7] ?? whole.written.frames);
      const piece = at('piece.wav');
      execFileSync('sox', [path, piece, 'trim', `${from}s`, `${to - from}s`]);
      expect(abs(ffmpegLoudness(piece).integratedLufs - Number(row[8]))).toBeLessThanOrEqual(0.07);
    });
  });

  test('single files join to it sample for sample', () => {
    const single = write('single', { format: { kind: 'wav', bitDepth: 16 }, form: 'single' });
    expect({ code: single.code, err: single.err }).toEqual({ code: 0, err: '' });
    const names = readdirSync(at('single', NAME))
      .filter((name) => name.endsWith('.wav'))
      .sort();
    expect(names[4]).toBe('05 Piece 5 dusk , ä.wav');
    const paths = names.map((name) => single.path(name));
    expect(Buffer.compare(bytesOf(...paths), bytesOf(whole.path(`${NAME}.wav`)))).toBe(0);
    for (const path of paths) expect(Number(execFileSync('soxi', ['-s', path])) % SECTOR).toBe(0);
    // Of its own file, a track says which of them it is.
    const { out } = opsimeter('measure', paths[4] as string, '--json');
    const [{ metadata }] = JSON.parse(out);
    expect(JSON.stringify(metadata)).toContain('A guest');
    expect(readFileSync(paths[4] as string, 'latin1')).toContain('ISRC:QDA1A2600005');
  });
});

test('a FLAC has its own cue sheet, that metaflac reads, and decodes to what the WAV holds', () => {
  const flac = write('flac', { format: { kind: 'flac', bitDepth: 16 }, isForCd: true });
  expect(flac.code).toBe(0);
  const path = flac.path(`${NAME}.flac`);
  execFileSync('flac', ['--silent', '--test', path]);
  const sheet = execFileSync('metaflac', ['--export-cuesheet-to=-', path], { encoding: 'utf8' });
  expect(sheet).toMatch(/^CATALOG 4006381333931/);
  expect([...sheet.matchAll(/ISRC (\w+)/g)].map(([, isrc]) => isrc)).toEqual(tracks.map(({ tags }) => tags.isrc));
  expect([...sheet.matchAll(/INDEX 01 ([\d:]+)/g)].map(([, time]) => time)).toEqual(
    flac.written.tracks.map(({ start }: { start: string }) => start),
  );
  expect(sheet).toContain('REM FLAC__lead-in 88200');
  expect(sheet).toContain(`REM FLAC__lead-out 170 ${flac.written.frames}`);
  // What metaflac itself makes of our cue sheet as text is the same block.
  const copy = at('copy.flac');
  writeFileSync(copy, readFileSync(path));
  execFileSync('metaflac', ['--remove', '--block-type=CUESHEET', copy]);
  execFileSync('metaflac', [`--import-cuesheet-from=${flac.path(`${NAME}.cue`)}`, copy]);
  const again = execFileSync('metaflac', ['--export-cuesheet-to=-', copy], { encoding: 'utf8' });
  expect(again.replace(/FILE.*/, '')).toBe(sheet.replace(/FILE.*/, ''));
});

test.each([
  ['m4a', RATE],
  ['mp3', RATE],
  ['opus', 48_000],
])('an %s has its tracks as chapters, that ffprobe reads', (kind, sampleRateHz) => {
  const coded = write(kind, { format: { kind, sampleRateHz }, spec: 'streaming-music' });
  const path = coded.path(`${NAME}.${kind}`);
  const { chapters } = JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-show_chapters', '-of', 'json', path], { encoding: 'utf8' }),
  );
  expect(chapters).toHaveLength(12);
  chapters.forEach((chapter: { start_time: string; tags: { title: string } }, i: number) => {
    expect(chapter.tags.title).toBe(tracks[i]?.title);
    const startSeconds = coded.written.tracks[i].startFrame / sampleRateHz;
    expect(abs(Number(chapter.start_time) - startSeconds)).toBeLessThan(0.0011);
  });
});

/** A decoder of each kind that is not FFmpeg's where there is one; of MPEG-4, FFmpeg plays the last packet out. */
const DECODERS: Readonly<Record<string, (path: string, out: string) => void>> = {
  mp3: (path, out) => execFileSync('mpg123', ['-q', '-e', 's24', '-w', out, path]),
  m4a: (path, out) => void ffmpeg('-i', path, '-c:a', 'pcm_s24le', out),
  opus: (path, out) => execFileSync('opusdec', ['--quiet', '--rate', '48000', path, out]),
};

test.each([
  ['mp3', RATE],
  ['m4a', RATE],
  ['opus', 48_000],
])('single files of %s decode to their whole length, and join without a click', (kind, rate) => {
  // Two steady tones, cut anywhere: a coder that knew nothing of the other side would leave a click at the cut.
  const frames = 24 * rate;
  const tone = Float64Array.from({ length: frames }, (_, n) =>
    [441.3, 1234.5].reduce((sum, hz) => sum + 0.2 * Math.sin((2 * Math.PI * hz * n) / rate), 0),
  );
  const cuts = [0, 7.013, 15.4, 24].map((seconds) => Math.round(seconds * rate));
  const parts = cuts.slice(1).map((end, i) => {
    const part = tone.slice(cuts[i], end);
    writeFileSync(at(`tone${i}.wav`), wavOf([part, part], { sampleRateHz: rate }));
    return { file: `tone${i}.wav` };
  });
  const { written, path } = write(`tone-${kind}`, {
    ...{ format: { kind, sampleRateHz: rate }, form: 'single', spec: 'streaming-music', tracks: parts },
  });
  const starts: number[] = written.tracks.map(({ startFrame }: { startFrame: number }) => startFrame);
  const samples = written.files
    .filter(({ role }: { role: string }) => role === 'audio')
    .flatMap(({ fileName }: { fileName: string }, i: number) => {
      const out = at(`${kind}${i}.wav`);
      (DECODERS[kind] as (path: string, out: string) => void)(path(fileName), out);
      const own = samplesOf(out);
      const length = 2 * ((starts[i + 1] ?? written.frames) - (starts[i] as number));
      if (kind !== 'm4a') expect(own).toHaveLength(length);
      return [...own.subarray(0, length)];
    });
  // A click is a bend that the tones themselves do not have: the steepest second difference at a cut, and where there is none.
  const bend = (from: number, to: number) => {
    let most = 0;
    for (let n = 2 * from; n < 2 * to; n++) {
      const [before, here, behind] = [samples[n - 2], samples[n], samples[n + 2]] as [number, number, number];
      most = Math.max(most, abs(before - 2 * here + behind));
    }
    return most;
  };
  const anywhere = bend(2 * rate, 5 * rate);
  for (const start of starts.slice(1)) expect(bend(start - 8, start + 8)).toBeLessThan(1.3 * anywhere);
});

test('one limiter over the whole takes what an overlap adds up to, and no peak is left above its ceiling', () => {
  const limited = write('limited', {
    format: { kind: 'wav', bitDepth: 24 },
    limit: { ceilingDbtp: -6 },
    spec: 'archive',
  });
  expect(limited.written.reduction.greatestDb).toBeGreaterThan(0.5);
  expect(limited.written.readings.truePeakDbtp).toBeLessThanOrEqual(-6 + 0.05);
});

test('what keeps a record from being written is told, and nothing is left of it', () => {
  const format = { kind: 'wav' };
  expect(write('refused', { format, catalogNumber: '4006381333932' }).err).toMatch(/last digit should be 1/);
  const mono = { file: 'mono.wav' };
  writeFileSync(at('mono.wav'), wavOf([new Float64Array(RATE)], { sampleRateHz: RATE }));
  expect(write('refused-2', { format, tracks: [tracks[0], mono] }).err).toMatch(
    /cannot hold Piece 1: "dusk", ä \(2 channels\) and mono \(1 channels\)/,
  );
  expect(write('refused-3', { format, tracks: [{ ...tracks[0], gapSeconds: -20 }, tracks[1]] }).err).toMatch(
    /programme 1 is shorter than its overlaps/,
  );
  expect(write('refused-4', { format, tracks: [{ file: 'nowhere.wav' }] }).err).toMatch(/nowhere\.wav/);
  for (const name of ['refused', 'refused-2', 'refused-3', 'refused-4']) {
    expect(existsSync(at(name)) ? readdirSync(at(name)) : []).toEqual([]);
  }
  expect(write('refused-5', { format, form: 'stems' }).err).toMatch(/records\.0\.form/);
  expect(write('cd', { format }).err).toMatch(/already exists/);
});

/** Of `3:25.31`, as cuetools prints it, in 1/75 s. */
function sectorsOf(text: string): number {
  const [minutes = 0, seconds = 0, sectors = 0] = text.split(/[:.]/).map(Number);
  return (60 * minutes + seconds) * 75 + sectors;
}
