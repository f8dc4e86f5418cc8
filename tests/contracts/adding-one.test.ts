/**
 * One more of each: a requirement, a treatment step, an output format, a finding and a transport are added to a copy of the source,
 * each as a file of its own and its lines in one list (and a test would be the third). The compiler takes it, and it is seen in the
 * sheet, the command and its help, the API and the reference.
 */
import { spawnSync } from 'node:child_process';
import { cpSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';
import { specById } from '@/core/spec/catalogue';
import { decodedByFfmpeg } from '../fixtures/ffmpeg';
import { stereo, tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const COPY = resolve('test-results/adding-one');
const at = (path: string) => join(COPY, path);

interface Added {
  /** Of its own. */
  file: string;
  source: string;
  list: string;
  /** What stands in the list, and what stands there with it. */
  lines: readonly (readonly [before: string, after: string])[];
}

const ADDED: Readonly<Record<string, Added>> = {
  requirement: {
    file: 'src/core/spec/requirements/peak-to-loudness.ts',
    source: `
      import { assessNumber, notAssessed, rangeField, describeRange, requirement } from './requirement';
      import { rangeControls, showRange } from './form';

      export const peakToLoudness = requirement({
        key: 'peak-to-loudness',
        isMovedByGain: false,
        fields: { peakToLoudness: rangeField.optional() },
        form: {
          title: 'Limits',
          controls: rangeControls('plr', 'PLR from, LU', 'PLR to, LU'),
          show: ({ peakToLoudness: range }) => showRange('plr', range),
          read: (values) => ({ peakToLoudness: values.range('plr') }),
        },
        describe: ({ peakToLoudness: range }) => [{ name: 'PLR', value: range ? describeRange(range, 'LU') : '' }],
        assess({ peakToLoudness: range }, { readings: { peakToLoudnessLu } }) {
          if (!range) return [];
          const named = { key: 'peak-to-loudness', name: 'PLR', required: describeRange(range, 'LU') };
          if (peakToLoudnessLu === null) return [notAssessed(named, 'silence')];
          return [assessNumber(named, peakToLoudnessLu, 'LU', range)];
        },
      });`,
    list: 'src/core/spec/requirements/requirements.ts',
    lines: [
      [
        "import { premaster } from './premaster';",
        "import { peakToLoudness } from './peak-to-loudness';\nimport { premaster } from './premaster';",
      ],
      ['  ...premaster.fields,', '  ...premaster.fields,\n  ...peakToLoudness.fields,'],
      ['  premaster,\n] as const', '  premaster,\n  peakToLoudness,\n] as const'],
    ],
  },
  step: {
    file: 'src/core/treatment/steps/invert-all.ts',
    source: `
      import * as z from 'zod';
      import { defineStep } from '../step';

      export const invertAllStep = defineStep({
        title: 'Polarity',
        schema: z.boolean().default(false),
        stage: 'preparation',
        describe: (isOn) => (isOn ? 'Polarity of all channels inverted' : null),
        process: (_isOn, planar) => planar.map((samples) => samples.map((x) => -x)),
        on: true,
        flags: [{ name: 'invert-all', help: 'invert the polarity of every channel' }],
        read: (flags) => flags.isOn('invert-all'),
      });`,
    list: 'src/core/treatment/treatment.ts',
    lines: [
      [
        "import { limitStep } from './steps/limit';",
        "import { invertAllStep } from './steps/invert-all';\nimport { limitStep } from './steps/limit';",
      ],
      ['  mix: mixStep,', '  mix: mixStep,\n  invertAll: invertAllStep,'],
    ],
  },
  format: {
    file: 'src/core/file-formats/wv.ts',
    source: `
      import type { FileFormat } from './file-format';

      export const wv: FileFormat = {
        name: 'WavPack',
        extensions: ['wv'],
        mediaType: 'audio/x-wavpack',
        matches: ({ container }) => container === 'WavPack',
        depths: [24, 16],
        ratesHz: null,
        mostChannels: 2,
        modes: [],
        bitRatesKbps: {},
        defaultKbps: null,
        tags: null,
        loudnessTags: null,
        chapters: null,
        hasAdm: false,
        statesLength: true,
        bitsPerSample: (bitDepth) => bitDepth,
        headerBytes: 600,
        encoder: { arguments: () => ['-c:a', 'wavpack', '-f', 'wv'] },
      };`,
    list: 'src/core/file-formats/file-formats.ts',
    lines: [
      ["import { wav } from './wav';", "import { wav } from './wav';\nimport { wv } from './wv';"],
      ['ogg, mp2, ac3 };', 'ogg, mp2, ac3, wv };'],
    ],
  },
  finding: {
    file: 'src/core/findings/short-programme.ts',
    source: `
      import { advice, defineFinding } from './finding';

      export const shortProgramme = defineFinding({
        code: 'short-programme',
        criterion: 'the programme is shorter than ten seconds',
        look({ facts: { frames, sampleRateHz } }) {
          return frames < 10 * sampleRateHz ? advice('Shorter than ten seconds. Is it whole?') : null;
        },
      });`,
    list: 'src/core/findings/findings.ts',
    lines: [
      [
        "import { silent } from './silent';",
        "import { shortProgramme } from './short-programme';\nimport { silent } from './silent';",
      ],
      ['  otherRate,\n]', '  otherRate,\n  shortProgramme,\n]'],
    ],
  },
  transport: {
    file: 'src/server/receivers/transports/courier.ts',
    source: `
      import type { Transport } from '../transport';

      export const courier: Transport = {
        kind: 'courier',
        name: 'courier',
        words: 'Somebody comes for a disk.',
        place: 'address',
        placeholder: 'Observatory Road 3',
        isSigned: false,
        isFetchedFrom: false,
        addressProblem: () => undefined,
        transfer: () => Promise.resolve(),
        answer: () => Promise.resolve(undefined),
      };`,
    list: 'src/server/receivers/transports.ts',
    lines: [
      ['import { dropFolder }', "import { courier } from './transports/courier';\nimport { dropFolder }"],
      ['webHook, putObjects]', 'webHook, putObjects, courier]'],
    ],
  },
};

const SPEC = { ...specById('ebu-r128'), id: 'narrow', name: 'Narrow', peakToLoudness: { least: 30, most: null } };

/** A module of the copy, bundled beside it. */
async function bundled(entry: string): Promise<string> {
  const outfile = at(`out/${entry.replaceAll('/', '-')}.mjs`);
  await build({
    absWorkingDir: COPY,
    entryPoints: [entry],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    packages: 'external',
    alias: { 'server-only': 'node:process' },
    logLevel: 'warning',
  });
  return outfile;
}

function run(script: string, ...args: string[]): string {
  const env = { ...process.env, NODE_OPTIONS: '' };
  const { status, stdout, stderr } = spawnSync(process.execPath, [script, ...args], {
    cwd: COPY,
    env,
    encoding: 'utf8',
  });
  // 1 is said of what misses its spec.
  if (status !== 0 && status !== 1) throw new Error(stderr);
  return stdout;
}

const opsimeter = (...args: string[]) => run(at('bin/opsimeter.mjs'), ...args);

beforeAll(async () => {
  rmSync(COPY, { recursive: true, force: true });
  mkdirSync(at('data'), { recursive: true });
  for (const name of ['src', 'bin', 'scripts', 'tsconfig.json', 'package.json'])
    cpSync(name, at(name), { recursive: true });
  cpSync('tests/fixtures/sheet-of.ts', at('src/sheet-of.ts'));
  for (const { file, source, list, lines } of Object.values(ADDED)) {
    writeFileSync(at(file), source);
    let text = readFileSync(at(list), 'utf8');
    for (const [before, after] of lines) {
      expect(text).toContain(before);
      text = text.replace(before, after);
    }
    writeFileSync(at(list), text);
  }
  run('--eval', "import('./scripts/bundle.mjs').then(({ bundle }) => bundle())");
  writeFileSync(at('mix.wav'), wavOf(stereo(tone([{ seconds: 3, levelDbfs: -20 }], 48_000)), { bits: 16 }));
  writeFileSync(at('narrow.json'), JSON.stringify(SPEC));
}, 120_000);
afterAll(() => rmSync(COPY, { recursive: true, force: true }));

test('the compiler takes them', () => {
  // The copy is read as the project is, but for its own paths.
  const tsc = resolve('node_modules/typescript/bin/tsc');
  const config = JSON.parse(readFileSync('tsconfig.json', 'utf8'));
  const include = ['src/**/*.ts', 'src/**/*.tsx', resolve('next-env.d.ts')];
  writeFileSync(
    at('tsconfig.json'),
    JSON.stringify({ ...config, include, exclude: ['src/kernels/assembly', 'src/**/*.test.ts'] }),
  );
  expect(run(tsc, '--noEmit', '--incremental', 'false', '-p', COPY)).toBe('');
}, 120_000);

test('the command knows them, in its help and in what it does', () => {
  const help = opsimeter('master', '--help');
  expect(help).toContain('--invert-all');
  expect(help).toContain('.wv');
  opsimeter(
    'master',
    'mix.wav',
    '--gain',
    '0',
    '--spec',
    'premaster',
    '--invert-all',
    '--bits',
    '16',
    '--dither',
    'none',
    '--out',
    'out.wv',
  );
  const [before, after] = [at('mix.wav'), at('out.wv')].map((path) => decodedByFfmpeg(path, 2));
  expect(after?.map((samples) => samples.map((x) => 0 - x))).toEqual(before);
  expect(opsimeter('measure', 'mix.wav')).toContain('Shorter than ten seconds. Is it whole?');
});

test('the sheet knows them', async () => {
  const script = await bundled('src/sheet-of.ts');
  const { row, findings } = JSON.parse(run(script, at('data'), at('mix.wav'), 'wv', JSON.stringify(SPEC)));
  expect(row.formatText).toContain('WavPack');
  expect(row.prediction.verdict.items).toContainEqual(
    expect.objectContaining({ key: 'peak-to-loudness', required: expect.stringContaining('30'), inside: false }),
  );
  expect(findings).toContainEqual(expect.objectContaining({ code: 'short-programme' }));
});

test('the API and the reference name them', async () => {
  const [api, reference] = await Promise.all(
    ['src/server/http/openapi.ts', 'src/server/reference.ts'].map(
      async (entry) => pathToFileURL(await bundled(entry)).href,
    ),
  );
  const said = (module: string | undefined, name: string) =>
    run('--input-type=module', '--eval', `import { ${name} } from '${module}'; console.log(JSON.stringify(${name}()))`);
  const described = said(api, 'openApi');
  for (const name of ['peakToLoudness', 'invertAll', '"wv"', '"courier"']) expect(described).toContain(name);
  const told = said(reference, 'reference');
  for (const name of ['peak-to-loudness', 'invertAll', 'WavPack', 'short-programme', 'courier'])
    expect(told).toContain(name);
});

test('each is a file and one list, besides its test', () => {
  for (const { file, list } of Object.values(ADDED)) expect(new Set([file, list]).size).toBe(2);
});
