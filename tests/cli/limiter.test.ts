/** `opsimeter master` with a limiter, run as a whole process. */
import { existsSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { music } from '@/cli/demo/synth';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-limiter-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('a limiter, where the ceiling stops the gain', () => {
  const master = (name: string, ...more: string[]) => {
    const run = opsimeter('master', at('drums.wav'), '--spec', 'ebu-r128', '--out', at(name), '--json', ...more);
    return { ...run, said: run.code === 2 ? undefined : JSON.parse(run.out) };
  };
  beforeAll(() => {
    // Music under drums that stand far above it.
    const channels = music(20, RATE, [{ startSeconds: 0, level: 0.25, drums: 0.2 }], 8);
    for (const samples of channels) {
      for (let n = 0; n < samples.length; n++) {
        const t = (n % RATE) / RATE;
        samples[n] = 0.45 * (samples[n] ?? Number.NaN) + 0.8 * Math.exp(-300 * t) * Math.sin(2 * Math.PI * 900 * t);
      }
    }
    writeFileSync(at('drums.wav'), wavOf(channels));
  });

  test('by itself, it is never used', () => {
    const { said } = master('gain only.wav');
    expect(said).toMatchObject({ maxGainReductionDb: 0, reduction: null, bindingLimit: 'ceiling' });
    expect(said.shortfallLu).toBeGreaterThan(3);
  });

  test('with as much as it takes, the target is met within 0.05 LU, and the ceiling by every meter', () => {
    const { said, code } = master('limited.wav', '--max-reduction', '12');
    expect(code).toBe(0);
    expect(Math.abs(said.after.integratedLufs + 23)).toBeLessThanOrEqual(0.05);
    expect(said.after.truePeakDbtp).toBeLessThanOrEqual(-1);
    expect(said).toMatchObject({ shortfallLu: 0, verdict: { inside: true } });
    // The greatest reduction is the drive: what the gain puts over the ceiling.
    expect(said.maxGainReductionDb).toBeCloseTo(said.before.truePeakDbtp + said.gainDb + 1, 1);
    expect(ffmpegLoudness(at('limited.wav')).truePeakDbtp).toBeLessThanOrEqual(-0.9);
    const back = opsimeter('measure', at('limited.wav'), '--json');
    expect(JSON.parse(back.out)[0].findings[0]).toMatchObject({
      code: 'treated-before',
      message: expect.stringMatching(/gain \+\d+\.\d dB limiter −1\.0 dBTP/),
    });
  });

  test('no more is reduced than is allowed, and what is left to the target is told', () => {
    const { said, code } = master('a little.wav', '--max-reduction', '2');
    expect(code).toBe(1);
    expect(said.maxGainReductionDb).toBeLessThanOrEqual(2.05);
    expect(said.maxGainReductionDb).toBeGreaterThan(1.9);
    expect(said.shortfallLu).toBeGreaterThan(0.5);
    expect(said.after.truePeakDbtp).toBeLessThanOrEqual(-1);
  });

  test.each(['-1', '13', 'x', ''])('a reduction of "%s" is refused', (value) => {
    expect(master('never.wav', `--max-reduction=${value}`)).toMatchObject({ code: 2 });
    expect(existsSync(at('never.wav'))).toBe(false);
  });
});
