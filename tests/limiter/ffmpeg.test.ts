/** FFmpeg as a second judge of the limiter: the greatest sample once it has brought the sound to 192 kHz. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ffmpegTruePeakDbtp } from '../fixtures/command';
import { limit } from '../fixtures/limit';
import { ASIDE, KNOWN } from '../fixtures/limiter-material';
import { measure } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const CEILING = -1;
/** FFmpeg mirrors what stands at a file's edges, and reads hot starts too high: silence around them keeps it from that. */
const AROUND = 200;

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-judge-'));
afterAll(() => rmSync(folder, { recursive: true }));

describe.each([...KNOWN, ...ASIDE].filter(({ kind }) => kind === 'music'))('$name', ({ make }) => {
  test.each([
    [44_100, 3],
    [48_000, 6],
    [96_000, 12],
  ])('at %i Hz, driven by %i dB: no more than 0.02 dB over', (rate, driveDb) => {
    const source = make(rate);
    const gainDb = CEILING + driveDb - (measure(source, rate).readings.truePeakDbtp ?? Number.NaN);
    const { channels } = limit(source, rate, { gainDb, ceilingDbtp: CEILING });
    const path = join(folder, 'limited.wav');
    const padded = channels.map((samples) => {
      const all = new Float32Array(samples.length + 2 * AROUND);
      all.set(samples, AROUND);
      return all;
    });
    writeFileSync(path, wavOf(padded, { sampleRateHz: rate }));
    expect(ffmpegTruePeakDbtp(path)).toBeLessThanOrEqual(CEILING + 0.02);
  });
});
