import { spawnSync } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { music, speech } from '@/cli/demo/synth';
import { solveLimited } from '@/core/treatment/limited-solver';
import { createKernelLoops } from '@/kernels/curve-kernel';
import { judgedTruePeakDbtp } from '../tests/fixtures/judge';
import { limit, limitedForecast } from '../tests/fixtures/limit';
import { ASIDE, made } from '../tests/fixtures/limiter-material';
import { measure } from '../tests/fixtures/signals';

const { sin, cos, PI, hypot, log10 } = Math;
const RATE = 48_000;
const CEILING = -1;
/** How much louder than gain alone can make it. */
const BEYOND_CAP_LU = [1.5, 3] as const;
const DOCUMENT = 'docs/limiter.md';
const [START, END] = ['<!-- table -->', '<!-- /table -->'];

type Sound = Float32Array[];
/** What a limiter makes of a sound that is turned up before. */
type Process = (source: Sound, gainDb: number) => Sound;

const repeated = (times: number, sound: Sound) =>
  sound.map((samples) => {
    const all = new Float32Array(times * samples.length);
    for (let i = 0; i < times; i++) all.set(samples, i * samples.length);
    return all;
  });
const song = (seed: number, drums: number) =>
  music(
    12,
    RATE,
    [
      { startSeconds: 0, level: 0.4, drums: drums / 2 },
      { startSeconds: 4, level: 1.1, drums },
    ],
    seed,
  );
const aside = (name: string) => repeated(4, ASIDE.find((material) => material.name === name)?.make(RATE) ?? []);

const THIRDS: readonly (readonly [string, readonly Sound[]])[] = [
  ['known', [song(4, 1), song(8, 0.4), [speech(12, RATE, 5)]]],
  ['kept aside', [aside('strings, plucked'), aside('a chord of saws that swells'), [speech(12, RATE, 77)]]],
];

let folder = '';

export async function run(scratch: string): Promise<void> {
  folder = scratch;
  const rows: string[] = [];
  for (const [third, sounds] of THIRDS) {
    for (const [name, process] of PROCESSES) {
      const cells = BEYOND_CAP_LU.map((lu) => average(sounds.map((sound) => compared(process, sound, lu))));
      rows.push(row(third, name, cells));
      say(`${rows.at(-1)}\n`);
    }
    const cells = BEYOND_CAP_LU.map((lu) => average(sounds.map((sound) => normalised(sound, lu))));
    rows.push(row(third, 'FFmpeg `loudnorm`, two passes', cells));
    say(`${rows.at(-1)}\n`);
  }
  const tones = PROCESSES.map(([name, process]) => {
    const thd = [50, 100].map((hz) => distortionDb(process(tone(hz), 6 + CEILING - 20 * log10(0.9)), hz));
    const imd = intermodulationDb(process([made(3, RATE, mixed)], 6 + CEILING - 20 * log10(0.9)));
    return `| ${name} | ${thd.map((db) => number(db, 0)).join(' / ')} | ${number(imd, 0)} |`;
  });
  const table = [
    '| material | limiter | drive, dB | residual, dB | true peak over the ceiling, dB | off the target, LU |',
    '|---|---|---|---|---|---|',
    ...rows,
    '',
    '| 6 dB over | THD at 50 / 100 Hz, dB | 60 Hz and 7 kHz 4:1, products, dB |',
    '|---|---|---|',
    ...tones,
  ].join('\n');
  const text = readFileSync(DOCUMENT, 'utf8');
  const [from, to] = [text.indexOf(START) + START.length, text.indexOf(END)];
  writeFileSync(DOCUMENT, `${text.slice(0, from)}\n${table}\n${text.slice(to)}`);
}

const say = (text: string) => process.stdout.write(text);

interface Figures {
  driveDb: number;
  residualDb: number;
  overDb: number;
  missLu: number;
}

const PROCESSES: readonly (readonly [string, Process])[] = [
  ['this one', (source, gainDb) => limit(source, RATE, { gainDb, ceilingDbtp: CEILING }).channels],
  ['FFmpeg `alimiter`, 48 kHz, 5/50 ms', alimiter(RATE, 5, 50)],
  ['FFmpeg `alimiter`, 192 kHz, 5/50 ms', alimiter(4 * RATE, 5, 50)],
  ['FFmpeg `alimiter`, 192 kHz, 1.5/20 ms', alimiter(4 * RATE, 1.5, 20)],
];

function alimiter(rate: number, attackMs: number, releaseMs: number): Process {
  const up = rate === RATE ? '' : `aresample=${rate}:resampler=soxr:precision=28,`;
  const down = rate === RATE ? '' : `,aresample=${RATE}:resampler=soxr:precision=28`;
  const limiter = `alimiter=limit=${10 ** (CEILING / 20)}:attack=${attackMs}:release=${releaseMs}:level=false:latency=true`;
  return (source, gainDb) => filtered(source, `volume=${gainDb}dB:precision=double,${up}${limiter}${down}`);
}

/** Driven until it is so much louder than gain alone can make it. */
function compared(process: Process, source: Sound, beyondLu: number): Figures {
  const { target, capGainDb } = aimed(source, beyondLu);
  const forecast = limitedForecast(source, RATE, { loops: createKernelLoops() });
  const spec = {
    id: 'bench',
    version: 1,
    name: 'bench',
    basis: { kind: 'common-practice', document: 'bench' },
    loudness: { measure: 'integrated', target, toleranceBelow: 1, toleranceAbove: 1 },
    peak: { measure: 'true', ceiling: CEILING, allowanceDb: 0 },
    notJudged: [],
  } as const;
  let gainDb = solveLimited(forecast, { ...spec, notJudged: [] }, 20)?.gainDb ?? capGainDb;
  let made: Sound = [];
  let missLu = 0;
  for (let pass = 0; pass < 8; pass++) {
    made = process(source, gainDb);
    missLu = lufs(made) - target;
    if (Math.abs(missLu) < 0.005) break;
    gainDb -= 1.6 * missLu;
  }
  return { driveDb: gainDb - capGainDb, ...judged(source, made), missLu };
}

function normalised(source: Sound, beyondLu: number): Figures {
  const { target } = aimed(source, beyondLu);
  const asked = `loudnorm=I=${target}:TP=${CEILING}:LRA=50`;
  const said = ffmpegText(source, `${asked}:print_format=json`);
  const first = JSON.parse(said.slice(said.lastIndexOf('{'), said.lastIndexOf('}') + 1));
  const measured = `measured_I=${first.input_i}:measured_TP=${first.input_tp}:measured_LRA=${first.input_lra}:measured_thresh=${first.input_thresh}:offset=${first.target_offset}`;
  const made = filtered(source, `${asked}:${measured}:linear=true,aresample=${RATE}:resampler=soxr:precision=28`);
  return { driveDb: Number.NaN, ...judged(source, made), missLu: lufs(made) - target };
}

function aimed(source: Sound, beyondLu: number) {
  const { integratedLufs, truePeakDbtp } = measure(source, RATE).readings;
  const capGainDb = CEILING - (truePeakDbtp as number);
  return { capGainDb, target: (integratedLufs as number) + capGainDb + beyondLu };
}

const lufs = (sound: Sound) => measure(sound, RATE).readings.integratedLufs as number;

function judged(source: Sound, made: Sound) {
  return { residualDb: residualDb(source, made), overDb: judgedTruePeakDbtp(made) - CEILING };
}

/** What is left of a sound when every 400 ms of it has been matched in level, under the sound itself. */
function residualDb(source: Sound, made: Sound): number {
  const window = 0.4 * RATE;
  let [left, all] = [0, 0];
  for (let from = 0; from + window <= (source[0]?.length ?? 0); from += window) {
    let [product, power, own] = [0, 0, 0];
    source.forEach((samples, channel) => {
      const other = made[channel] as Float32Array;
      for (let n = from; n < from + window; n++) {
        product += (samples[n] as number) * (other[n] as number);
        power += (samples[n] as number) ** 2;
        own += (other[n] as number) ** 2;
      }
    });
    left += power === 0 ? 0 : own - product ** 2 / power;
    all += own;
  }
  return 10 * log10(left / all);
}

const tone = (hz: number) => [made(3, RATE, (_, t) => 0.9 * sin(2 * PI * hz * t))];
const mixed = (_: number, t: number) => 0.72 * sin(2 * PI * 60 * t) + 0.18 * sin(2 * PI * 7000 * t);

function amplitude(samples: Float32Array, hz: number): number {
  let [s, c] = [0, 0];
  for (let n = 0; n < RATE; n++) {
    const x = samples[RATE + n] as number;
    s += x * sin((2 * PI * hz * n) / RATE);
    c += x * cos((2 * PI * hz * n) / RATE);
  }
  return hypot(s, c);
}

function distortionDb([samples]: Sound, hz: number): number {
  const harmonics = Array.from({ length: 19 }, (_, k) => amplitude(samples as Float32Array, hz * (k + 2)));
  return 20 * log10(hypot(...harmonics) / amplitude(samples as Float32Array, hz));
}

function intermodulationDb([samples]: Sound): number {
  const products = [-180, -120, -60, 60, 120, 180].map((offset) => amplitude(samples as Float32Array, 7000 + offset));
  return 20 * log10(hypot(...products) / amplitude(samples as Float32Array, 7000));
}

/** Through FFmpeg as 32-bit floats, as long as it was. */
function filtered(source: Sound, filters: string): Sound {
  const [input, output] = [join(folder, 'in.raw'), join(folder, 'out.raw')];
  const channels = source.length;
  const frames = source[0]?.length ?? 0;
  writeFileSync(input, interleaved(source));
  const format = ['-f', 'f32le', '-ar', `${RATE}`, '-ac', `${channels}`];
  const layout = `aformat=channel_layouts=${channels === 1 ? 'mono' : 'stereo'}`;
  const stated = `${layout},${filters},${layout}`;
  ffmpeg('-v', 'error', '-y', ...format, '-i', input, '-af', stated, '-f', 'f32le', '-c:a', 'pcm_f32le', output);
  const bytes = readFileSync(output);
  const all = new Float32Array(bytes.buffer.slice(bytes.byteOffset, bytes.byteOffset + bytes.byteLength));
  return source.map((_, channel) =>
    Float32Array.from({ length: frames }, (_unused, n) => all[n * channels + channel] ?? 0),
  );
}

function ffmpegText(source: Sound, filters: string): string {
  const input = join(folder, 'in.raw');
  writeFileSync(input, interleaved(source));
  return ffmpeg(
    '-f',
    'f32le',
    '-ar',
    `${RATE}`,
    '-ac',
    `${source.length}`,
    '-i',
    input,
    '-af',
    filters,
    '-f',
    'null',
    '-',
  );
}

function interleaved(source: Sound): Uint8Array {
  const frames = source[0]?.length ?? 0;
  const all = new Float32Array(frames * source.length);
  source.forEach((samples, channel) => {
    for (let n = 0; n < frames; n++) all[n * source.length + channel] = samples[n] as number;
  });
  return new Uint8Array(all.buffer);
}

function ffmpeg(...args: string[]): string {
  const { status, stderr } = spawnSync('ffmpeg', ['-hide_banner', '-nostdin', '-nostats', ...args], {
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(stderr);
  return stderr;
}

function average(list: readonly Figures[]): Figures {
  const mean = (key: keyof Figures) => list.reduce((sum, figures) => sum + figures[key], 0) / list.length;
  return {
    driveDb: mean('driveDb'),
    residualDb: mean('residualDb'),
    overDb: Math.max(...list.map(({ overDb }) => overDb)),
    missLu: Math.max(...list.map(({ missLu }) => Math.abs(missLu))),
  };
}

function row(third: string, name: string, cells: readonly Figures[]): string {
  const both = (key: keyof Figures, digits: number) => cells.map((cell) => number(cell[key], digits)).join(' / ');
  return `| ${third} | ${name} | ${both('driveDb', 2)} | ${both('residualDb', 1)} | ${both('overDb', 3)} | ${both('missLu', 2)} |`;
}

function number(value: number, digits: number): string {
  return Number.isNaN(value) ? '–' : value.toFixed(digits).replace('-', '−');
}
