/** What the command says of files that are none, of broken ones, and of odd names. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { opsimeter } from '../fixtures/command';
import { tone } from '../fixtures/signals';
import { buildWav, interleave, wavOf } from '../fixtures/wav';

const RATE = 48_000;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bad-input-'));
const at = (name: string) => join(folder, name);
beforeAll(() => writeFileSync(at('loud.wav'), wavOf([tone([{ seconds: 2, levelDbfs: -14 }], RATE)])));
afterAll(() => rmSync(folder, { recursive: true, force: true }));

describe('bad input', () => {
  const samples = tone([{ seconds: 1, levelDbfs: -20 }], RATE);
  const notFinite = interleave([samples], 32, true);
  notFinite.writeFloatLE(Number.NaN, 400);
  notFinite.writeFloatLE(Number.POSITIVE_INFINITY, 800);

  test.each<[string, Buffer, RegExp]>([
    ['empty.wav', Buffer.alloc(0), /is empty/],
    ['text.wav', Buffer.from('Please use take 3.\n'.repeat(50)), /is not a sound file that can be read/],
    ['header-only.wav', wavOf([samples]).subarray(0, 44), /has a header but no audio/],
    ['zero-channels.wav', buildWav({ channels: 0, blockAlign: 2, data: Buffer.alloc(64) }), /zero channels/],
    ['absurd-rate.wav', buildWav({ sampleRateHz: 3_000_000_000, data: Buffer.alloc(64) }), /3000000000 Hz/],
    ['mp3-inside.wav', buildWav({ formatTag: 0x55, data: Buffer.alloc(64) }), /compressed audio \(format tag 0x0055\)/],
  ])('%s is refused in one sentence, exit 2', (name, bytes, words) => {
    writeFileSync(at(name), bytes);
    const { code, out, err } = opsimeter('measure', at(name), at('loud.wav'), '--json');
    expect(code).toBe(2);
    expect(err.trim().split('\n')).toHaveLength(1);
    expect(err).toMatch(words);
    // The other file's readings are not lost.
    expect(JSON.parse(out)).toHaveLength(1);
  });

  test('a missing file and a folder are refused', () => {
    expect(opsimeter('measure', at('nowhere.wav'))).toMatchObject({
      code: 2,
      err: expect.stringContaining('no such file'),
    });
    expect(opsimeter('measure', folder)).toMatchObject({ code: 2, err: expect.stringMatching(/folder|not a file/) });
  });

  test('a truncated file is read as far as it goes, and the missing part is stated', () => {
    writeFileSync(at('truncated.wav'), wavOf([samples]).subarray(0, 44 + 3 * 24_000));
    const { code, out } = opsimeter('measure', at('truncated.wav'), '--json');
    expect(code).toBe(0);
    const [{ format, findings }] = JSON.parse(out);
    expect(format.frames).toBe(24_000);
    expect(findings[0]).toMatchObject({ code: 'truncated', message: expect.stringContaining('0:00.500 are missing') });
  });

  test('NaN and infinity are read as silence, said, and count against the verdict', () => {
    writeFileSync(at('nan.wav'), buildWav({ channels: 1, bits: 32, formatTag: 3, data: notFinite }));
    const { code, out } = opsimeter('check', at('nan.wav'), '--spec', 'ebu-r128', '--json');
    expect(code).toBe(1);
    const [{ readings, findings, verdict }] = JSON.parse(out);
    expect(findings[0]).toMatchObject({ code: 'non-finite-samples', message: expect.stringMatching(/^2 samples/) });
    expect(readings.truePeakDbtp).toBeLessThan(-10);
    expect(verdict.items.at(-1)).toMatchObject({ name: 'Invalid samples', measured: 2, inside: false });
  });

  test('names with spaces, unicode and 200 bytes are only names', () => {
    for (const name of ['a mix  with spaces.wav', '星空 – Überflug 🎧.wav', `${'n'.repeat(200)}.wav`]) {
      writeFileSync(at(name), wavOf([samples]));
      expect(opsimeter('measure', at(name)).code).toBe(0);
    }
    expect(opsimeter('measure', at(`${'n'.repeat(300)}.wav`))).toMatchObject({
      code: 2,
      err: expect.stringMatching(/too long|no such file/),
    });
  });
});
