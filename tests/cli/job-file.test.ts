/** `opsimeter deliver`, run as a whole process. */
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { music } from '@/cli/demo/synth';
import { opsimeter } from '../fixtures/command';
import { COVER } from '../fixtures/cover';
import { soxRmsDb } from '../fixtures/ffmpeg';
import { wavOf } from '../fixtures/wav';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-job-file-'));
const at = (name: string) => join(folder, name);
afterAll(() => rmSync(folder, { recursive: true }));

beforeAll(() => {
  const mix = music(12, 48_000, [{ startSeconds: 0, level: 0.5, drums: 0.4 }], 21);
  writeFileSync(at('mix.wav'), wavOf(mix.map((samples) => samples.map((x) => 0.5 * x))));
});

test('a job file: several deliveries, each where it belongs, and nothing is ever overwritten', () => {
  const job = {
    output: 'handed over',
    name: '{track}_{title}_{spec}_{format}',
    programmes: [
      {
        file: 'mix.wav',
        title: 'Nightfall overture',
        treatment: { removeDc: true },
        deliveries: [
          { spec: 'ebu-r128', format: { kind: 'wav' } },
          {
            spec: 'podcast-stereo',
            format: { kind: 'mp3', sampleRateHz: 44_100 },
            levelMode: { kind: 'solved', maxReductionDb: 6 },
          },
          { spec: 'ebu-r128', format: { kind: 'wav', bitDepth: 16, arrangement: 'split' } },
          {
            spec: 'podcast-mono',
            format: { kind: 'flac', arrangement: 'mono', hasLoudnessTags: true },
            levelMode: { kind: 'as-set' },
          },
        ],
        cover: 'cover.png',
      },
    ],
  };
  writeFileSync(at('job.json'), JSON.stringify(job));
  writeFileSync(at('cover.png'), COVER);
  const { code, out } = opsimeter('deliver', at('job.json'), '--json');
  const results = JSON.parse(out);
  // The last is as it is set, which misses its spec.
  expect(results.map(({ verdict }: { verdict: { inside: boolean } }) => verdict.inside)).toEqual([
    true,
    true,
    true,
    false,
  ]);
  expect(code).toBe(1);
  const names = readdirSync(at('handed over')).sort();
  expect(names).toEqual([
    '1_nightfall-overture_ebu-r128_16bit.L.wav',
    '1_nightfall-overture_ebu-r128_16bit.R.wav',
    '1_nightfall-overture_ebu-r128_24bit.wav',
    '1_nightfall-overture_podcast-mono_24bit.flac',
    '1_nightfall-overture_podcast-stereo_192k.mp3',
  ]);
  const flac = readFileSync(join(at('handed over'), '1_nightfall-overture_podcast-mono_24bit.flac'), 'latin1');
  expect(flac).toContain('image/png');
  expect(flac).toContain('TITLE=Nightfall overture');
  expect(flac).toMatch(/REPLAYGAIN_TRACK_GAIN=-?\d+\.\d\d dB/);
  const again = opsimeter('deliver', at('job.json'));
  expect(again.code).toBe(2);
  expect(again.err).toMatch(/already exists, and nothing is ever overwritten/);
});

test('everything that keeps a job from being written is told before its first byte', () => {
  const row = { spec: 'ebu-r128', format: { kind: 'wav' } };
  const job = {
    output: 'refused',
    programmes: [
      { file: 'mix.wav', deliveries: [row, row, { spec: 'ebu-r128', format: { kind: 'opus', sampleRateHz: 44_100 } }] },
      { file: 'nowhere.wav', deliveries: [{ spec: 'no-such', format: { kind: 'wav' } }, row] },
    ],
  };
  writeFileSync(at('refused.json'), JSON.stringify(job));
  const { code, err } = opsimeter('deliver', at('refused.json'));
  expect(code).toBe(2);
  expect(err).toMatch(/would both be mix_ebu-r128_v1\.wav/);
  expect(err).toMatch(/Opus is not written at 44\.1 kHz/);
  expect(err).toMatch(/no spec "no-such"/);
  expect(err).toMatch(/nowhere\.wav could not be opened/);
  expect(existsSync(at('refused'))).toBe(false);
});

test('a job file that is none says what is wrong with it', () => {
  writeFileSync(
    at('wrong.json'),
    JSON.stringify({ programmes: [{ file: 'mix.wav', deliveries: [{ spec: 'ebu-r128' }] }] }),
  );
  const { code, err } = opsimeter('deliver', at('wrong.json'));
  expect({ code, err }).toEqual({ code: 2, err: expect.stringMatching(/programmes\.0\.deliveries\.0\.format/) });
});

test('a template of the app, or of a file, says what is written; what the programme states itself comes first', () => {
  const own = {
    format: 'opsimeter-template',
    version: 1,
    name: 'Mine',
    rows: [{ specId: 'ebu-r128', format: { kind: 'flac' }, levelMode: { kind: 'solved', maxReductionDb: 0 } }],
    treatment: { fadeOut: { frames: 44_100, shape: 's-curve' } },
    sampleRateHz: 44_100,
    nameTemplate: '{spec}/{title}',
  };
  writeFileSync(at('mine.json'), JSON.stringify(own));
  const programmes = [
    { file: 'mix.wav', template: 'broadcast' },
    { file: 'mix.wav', template: 'mine.json', treatment: { removeDc: true } },
  ];
  writeFileSync(at('by-template.json'), JSON.stringify({ output: 'by template', programmes }));
  const { code, out } = opsimeter('deliver', at('by-template.json'), '--json');
  expect(code).toBe(0);
  expect(JSON.parse(out)).toHaveLength(2);
  expect(readdirSync(at('by template'), { recursive: true }).sort()).toEqual([
    'ebu-r128',
    'ebu-r128/mix.flac',
    'mix_ebu-r128_v1.wav',
  ]);
  // One second at 44.1 kHz is one second at 48.
  const tail = (name: string) => soxRmsDb(at(`by template/${name}`), 'trim', '-0.2');
  expect(tail('ebu-r128/mix.flac')).toBeLessThan(tail('mix_ebu-r128_v1.wav') - 15);

  writeFileSync(at('no-template.json'), JSON.stringify({ programmes: [{ file: 'mix.wav', template: 'nothing' }] }));
  expect(opsimeter('deliver', at('no-template.json')).err).toContain('podcast, broadcast, audiobook, record');
  writeFileSync(at('neither.json'), JSON.stringify({ programmes: [{ file: 'mix.wav' }] }));
  expect(opsimeter('deliver', at('neither.json')).err).toContain('A programme has deliveries or a template');
});
