/** Levels of records in job files: found before anything is written, and read of the files by FFmpeg. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { specById } from '@/core/spec/catalogue';
import { dbToAmplitude } from '@/core/units/decibel';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { musicLike } from '../fixtures/material';
import { wavOf } from '../fixtures/wav';

const RATE = 44_100;
const NAME = 'Songs for the dome';
const { abs } = Math;

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-levels-'));
const at = (...names: string[]) => join(folder, ...names);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const GAINS_DB = [-10, -3, -4];
const few = GAINS_DB.map((_, i) => ({ file: `${i + 1}.wav`, title: `Piece ${i + 1}`, gapSeconds: 1 }));
beforeAll(() => {
  for (const [i, gainDb] of GAINS_DB.entries()) {
    const start = (7 + 9 * i) * RATE;
    const gain = dbToAmplitude(gainDb);
    const piece = musicLike().map((samples) => samples.slice(start, start + 7 * RATE).map((x) => gain * x));
    writeFileSync(at(`${i + 1}.wav`), wavOf(piece, { sampleRateHz: RATE }));
  }
});

/** Writes a record, and returns what the command says of it. */
function write(output: string, change: object) {
  writeFileSync(at(`${output}.json`), JSON.stringify({ output, records: [{ name: NAME, ...change }] }));
  const { err, out } = opsimeter('deliver', at(`${output}.json`), '--json');
  return { err, written: JSON.parse(out || '[null]')[0], path: (name: string) => at(output, NAME, name) };
}

/** A beginning that is left out, a fade, and a piece far softer than the others. */
const treatments = [
  { trim: { startFrame: 3 * RATE, endFrame: 5 * RATE } },
  { fadeOut: { frames: RATE, shape: 'linear' } },
  { gainDb: -12 },
];
const treated = few.map((track, i) => ({ ...track, treatment: { gainDb: 0, ...treatments[i] } }));
const asWav = { format: { kind: 'wav', bitDepth: 24 } };
const aimed = (id: string, target: number) => {
  const spec = specById(id);
  return { ...spec, id: `${id}-${-target}`, loudness: { ...spec.loudness, target } };
};
const gainsOf = ({ written }: ReturnType<typeof write>) =>
  written.tracks.map(({ gainDb }: { gainDb: number }) => gainDb) as number[];

test('one gain for the whole keeps the balance that the pieces came with', () => {
  const one = write('whole', { ...asWav, spec: 'ebu-r128', levels: 'whole-at-target', tracks: treated });
  expect(one.err).toBe('');
  expect(abs(ffmpegLoudness(one.path(`${NAME}.wav`)).integratedLufs + 23)).toBeLessThan(0.1);
  expect(new Set(gainsOf(one)).size).toBe(1);
  expect(one.written.stoppedBy).toEqual([]);
});

test('each piece meets the target by itself', () => {
  // Behind pieces so short the blocks that reach into a pause would count.
  const pieces = treated.map((track) => ({ ...track, gapSeconds: 0 }));
  const spec = aimed('ebu-r128', -30);
  const each = write('each', { ...asWav, form: 'single', spec, levels: 'each-at-target', tracks: pieces });
  expect(each.err).toBe('');
  const wavs = each.written.files.filter(({ fileName }: { fileName: string }) => fileName.endsWith('.wav'));
  for (const { fileName } of wavs) {
    expect(abs(ffmpegLoudness(each.path(fileName)).integratedLufs + 30)).toBeLessThan(0.1);
  }
  expect(each.written.stoppedBy).toEqual([]);
  expect(new Set(gainsOf(each)).size).toBe(3);
});

test('the ceiling stops what has no limiter, and one over the whole goes on', () => {
  const loud = { ...asWav, spec: aimed('streaming-music', -9), levels: 'whole-at-target', tracks: few };
  const stopped = write('stopped', loud);
  expect(stopped.written.stoppedBy).toHaveLength(1);
  const limited = write('on', { ...loud, limit: { ceilingDbtp: -1 } });
  expect(limited.written.stoppedBy).toEqual([]);
  expect(ffmpegLoudness(limited.path(`${NAME}.wav`)).truePeakDbtp).toBeLessThanOrEqual(-0.9);
  expect(abs(ffmpegLoudness(limited.path(`${NAME}.wav`)).integratedLufs + 9)).toBeLessThan(0.15);
  const [before, after] = [stopped, limited].map(({ path }) => ffmpegLoudness(path(`${NAME}.wav`)).integratedLufs);
  expect(before).toBeLessThan((after as number) - 0.5);
});
