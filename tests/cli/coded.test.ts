/** Coded files from the headless command: they land on their target or it is said what keeps them from it, as FFmpeg reads them. */
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { music } from '@/cli/demo/synth';
import { ffmpegLoudness, opsimeter } from '../fixtures/command';
import { ffmpeg } from '../fixtures/ffmpeg';
import { surround } from '../fixtures/material';
import { wavOf } from '../fixtures/wav';

const RATE = 44_100;
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-coded-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

beforeAll(() => {
  const sections = [
    { startSeconds: 0, level: 0.7, drums: 0.5 },
    { startSeconds: 6, level: 1.2, drums: 0.9 },
  ];
  writeFileSync(at('stereo.wav'), wavOf(music(12, RATE, sections, 7), { sampleRateHz: RATE }));
  writeFileSync(at('surround.wav'), wavOf(surround().map((own) => own.slice(0, 12 * 48_000))));
});

/** How near a coded file is to land: as promised wherever its peaks allow it. */
const LANDING_LU = 0.1;

test.each([
  ['stereo', 'm4a', 96, 'streaming-music', -14],
  ['stereo', 'mp3', 96, 'streaming-music', -14],
  ['stereo', 'opus', 64, 'podcast-stereo', -16],
  ['surround', 'm4a', 320, 'ebu-r128', -23],
])('%s as %s at %i kbit/s lands on its target, or says why it does not', (name, kind, kbps, spec, targetLufs) => {
  const out = at(`${name} ${kbps}.${kind}`);
  for (const mostDb of [1, 6]) {
    const { err, out: text } = opsimeter(
      ...['master', at(`${name}.wav`), '--spec', spec, '--out', out, '--bitrate', String(kbps)],
      ...['--max-reduction', String(mostDb), '--json'],
    );
    expect(err).toBe('');
    const { bindingLimit, shortfallLu, maxGainReductionDb } = JSON.parse(text);
    const shortLu = targetLufs - ffmpegLoudness(out).integratedLufs;
    expect(maxGainReductionDb).toBeLessThanOrEqual(mostDb + 0.005);
    if (bindingLimit === 'target') {
      expect(Math.abs(shortLu)).toBeLessThanOrEqual(LANDING_LU);
      expect(shortfallLu).toBe(0);
    } else {
      expect({ mostDb, bindingLimit }).toEqual({ mostDb: 1, bindingLimit: 'reduction' });
      expect(shortfallLu).toBeCloseTo(shortLu, 1);
    }
    rmSync(out);
  }
});

test('Wave64 is taken as any other file', () => {
  ffmpeg('-i', at('stereo.wav'), '-c:a', 'pcm_s24le', at('stereo.w64'));
  const [wav, w64] = JSON.parse(opsimeter('measure', at('stereo.wav'), at('stereo.w64'), '--json').out);
  expect(w64.readings).toEqual(wav.readings);
  expect(w64.format).toMatchObject({ sampleRateHz: RATE, channels: 2, bitDepth: 24 });
});

test('a kind that has one rate is written at it', () => {
  const out = at('from 44100.opus');
  const { code, err } = opsimeter('master', at('stereo.wav'), '--spec', 'podcast-stereo', '--out', out);
  expect({ code, err }).toEqual({ code: 0, err: '' });
  const said = ffmpeg('-i', out, '-f', 'ffmetadata', '-').toString();
  expect(said).toContain(';FFMETADATA');
});
