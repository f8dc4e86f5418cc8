/**
 * Measures how fast files are measured, as a ratio to FFmpeg's own loudness filter in the same run: makes music of each
 * kind (or of those whose name holds the argument), then runs both in turn, and prints the median, least and greatest of
 * each figure. A full run writes docs/performance.md. `npm run build` comes first.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { cpus, loadavg, tmpdir } from 'node:os';
import { join } from 'node:path';

const RUNS = 5;
const KINDS = [
  { name: '48 kHz 24-bit stereo', minutes: 90, rate: 48_000, format: ['-c:a', 'pcm_s24le'] },
  { name: '44.1 kHz 16-bit stereo', minutes: 30, rate: 44_100, format: ['-c:a', 'pcm_s16le'] },
  { name: '96 kHz 24-bit stereo', minutes: 30, rate: 96_000, format: ['-c:a', 'pcm_s24le'] },
  { name: '48 kHz 24-bit 5.1', minutes: 30, rate: 48_000, format: ['-c:a', 'pcm_s24le', '-ac', '6'] },
];

/** The kernels' functions, by what they are for. */
const STAGES = [
  ['K-weighting, sums of samples and squares', /\/(weigh|weigh-exactly)\//],
  // process is where V8 puts the loop over blocks.
  ['peaks, waveform, clipped runs, bounds', /\/(blocks|clipped-runs)\/|\/meter\/process$/],
  ['true peak', /\/true-peak\//],
  ['unpacking', /\/unpack\//],
  ['reading the file', /^read(Sync)?$/],
];

/**
 * Two threads slow each other down where two processors are one core's: what the work itself costs is seen on one, as FFmpeg's
 * filter is, which has one thread. Where nothing can be kept to a processor, this is left out.
 */
const ALONE = 'opsimeter, one processor';
const CAN_PIN = spawnSync('taskset', ['-V']).status === 0;

/** What our command tells of itself when it ends. */
const USAGE = `process.on('exit', () => {
  const { userCPUTime, systemCPUTime, maxRSS } = process.resourceUsage();
  process.stderr.write('\\nusage ' + (userCPUTime + systemCPUTime) / 1e6 + ' ' + maxRSS);
})`;

/**
 * Without certificates that a machine may want every Node.js process to read when it starts: that takes longer than a
 * start itself, and nothing is fetched here.
 */
const { NODE_EXTRA_CA_CERTS: _, ...ENVIRONMENT } = process.env;

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
const lines = [];
const say = (line = '') => {
  console.log(line);
  lines.push(line);
};
const only = process.argv[2] ?? '';
try {
  const load = loadavg()[0]?.toFixed(2);
  say(`${cpus().length} × ${cpus()[0]?.model?.trim()}, Node ${process.version}, load ${load} at the start`);
  say();
  say('| Material | | wall s | CPU s | peak memory MB |');
  say('|---|---|---|---|---|');
  const ratios = [];
  let stages;
  for (const kind of KINDS.filter(({ name }) => name.includes(only))) {
    const path = join(folder, 'material.wav');
    makeMaterial(path, kind);
    ratios.push(compare(kind, path));
    if (kind === KINDS[0]) stages = { perFrame: stagesOf(path, kind), linear: linearity(path, kind.minutes) };
    rmSync(path);
  }
  say();
  say('| FFmpeg’s time ÷ ours | wall | CPU | CPU, ours on one processor |');
  say('|---|---|---|---|');
  for (const { name, wall, cpu, cpuAlone } of ratios) say(`| ${name} | ${wall} | ${cpu} | ${cpuAlone} |`);
  if (stages) {
    say();
    say('| Stage, 48 kHz 24-bit stereo | ns a frame |');
    say('|---|---|');
    for (const [stage, ns] of stages.perFrame) say(`| ${stage} | ${ns.toFixed(1)} |`);
    say();
    say(stages.linear);
  }
  if (only === '') writeTable();
} finally {
  rmSync(folder, { recursive: true, force: true });
}

/** Pink noise of two sides under chords and a pulse, swelling and falling: nothing that is easy to skip. */
function makeMaterial(path, { minutes, rate, format }) {
  const swell = `(0.55+0.45*sin(2*PI*t/17))`;
  const chord = (hz) => `0.12*${swell}*(sin(2*PI*${hz}*t)+sin(2*PI*${hz * 1.5}*t)+sin(2*PI*${hz * 2.01}*t))`;
  const pulse = '0.5*sin(2*PI*55*t)*exp(-9*mod(t\\,0.5))';
  const part = join(folder, 'part.wav');
  // Ten minutes, and those as often as it takes.
  ffmpeg([
    ...['-f', 'lavfi', '-i', `aevalsrc=exprs=${chord(220)}+${pulse}|${chord(221)}+${pulse}:s=48000:d=600`],
    ...['-f', 'lavfi', '-i', 'anoisesrc=c=pink:a=0.25:s=1:r=48000:d=600'],
    ...['-filter_complex', '[1]aformat=channel_layouts=stereo[n];[0][n]amix=inputs=2:normalize=0'],
    ...['-ar', String(rate), ...format, part],
  ]);
  ffmpeg(['-stream_loop', String(minutes / 10 - 1), '-i', part, '-c', 'copy', path]);
  rmSync(part);
}

function ffmpeg(args) {
  const { status, stderr } = spawnSync('ffmpeg', ['-hide_banner', '-loglevel', 'error', '-y', ...args], {
    encoding: 'utf8',
  });
  if (status !== 0) throw new Error(stderr);
}

function compare({ name, minutes }, path) {
  const runs = { opsimeter: [], [ALONE]: [], FFmpeg: [] };
  for (let run = 0; run <= RUNS; run++) {
    const ours = timeOurs(path);
    const alone = CAN_PIN ? [timeOurs(path, { isAlone: true })] : [];
    const theirs = timeTheirs(path);
    // The first of each only warms the disk's cache.
    if (run === 0) continue;
    runs.opsimeter.push(ours);
    runs[ALONE].push(...alone);
    runs.FFmpeg.push(theirs);
  }
  const material = `${name}, ${minutes} min, ${(statSync(path).size / 1e6).toFixed(0)} MB`;
  for (const [program, list] of Object.entries(runs).filter(([, own]) => own.length > 0)) {
    const memory = Math.max(...list.map(({ megabytes }) => megabytes)).toFixed(0);
    say(`| ${material} | ${program} | ${spread(list, 'wall')} | ${spread(list, 'cpu')} | ${memory} |`);
  }
  const ratios = runs.opsimeter.map((ours, i) => ({
    wall: runs.FFmpeg[i].wall / ours.wall,
    cpu: runs.FFmpeg[i].cpu / ours.cpu,
    cpuAlone: CAN_PIN ? runs.FFmpeg[i].cpu / runs[ALONE][i].cpu : Number.NaN,
  }));
  return {
    name,
    wall: spread(ratios, 'wall', 1),
    cpu: spread(ratios, 'cpu', 1),
    cpuAlone: spread(ratios, 'cpuAlone', 1),
  };
}

/** Wall and CPU seconds of our command, threads and start included, and the most memory it had. */
function timeOurs(path, { isAlone = false, options = [] } = {}) {
  const preload = ['--import', `data:text/javascript,${encodeURIComponent(USAGE)}`];
  const command = [process.execPath, ...preload, ...options, 'bin/opsimeter.mjs', 'measure', path];
  const [program, ...args] = isAlone ? ['taskset', '-c', '0', ...command] : command;
  const { wall, stderr } = timed(program, args);
  const [, cpu, kilobytes] = /usage (\S+) (\d+)$/.exec(stderr);
  return { wall, cpu: Number(cpu), megabytes: Number(kilobytes) / 1000 };
}

/** The same of FFmpeg's, which tells by itself. */
function timeTheirs(path) {
  const args = ['-hide_banner', '-nostats', '-benchmark', '-i', path, '-af', 'ebur128=peak=true', '-f', 'null', '-'];
  const { wall, stderr } = timed('ffmpeg', args);
  const [, user, system] = /utime=([\d.]+)s stime=([\d.]+)s/.exec(stderr);
  const [, kilobytes] = /maxrss=(\d+)/.exec(stderr);
  return { wall, cpu: Number(user) + Number(system), megabytes: Number(kilobytes) / 1000 };
}

function timed(command, args) {
  const startedMs = performance.now();
  const options = { encoding: 'utf8', maxBuffer: 1 << 26, env: ENVIRONMENT };
  const { status, stderr } = spawnSync(command, args, options);
  if (status !== 0) throw new Error(`${command} failed: ${stderr}`);
  return { wall: (performance.now() - startedMs) / 1000, stderr };
}

/** Nanoseconds of CPU a frame in each stage, by sampling where the threads are. */
function stagesOf(path, { minutes, rate }) {
  const profiles = join(folder, 'profiles');
  timeOurs(path, { options: ['--cpu-prof', '--cpu-prof-interval', '500', `--cpu-prof-dir=${profiles}`] });
  const spent = new Map(STAGES.map(([stage]) => [stage, 0]));
  for (const file of readdirSync(profiles)) {
    const { nodes, samples, timeDeltas } = JSON.parse(readFileSync(join(profiles, file), 'utf8'));
    const names = new Map(nodes.map(({ id, callFrame }) => [id, callFrame.functionName]));
    samples.forEach((id, i) => {
      const stage = STAGES.find(([, pattern]) => pattern.test(names.get(id)))?.[0];
      if (stage) spent.set(stage, spent.get(stage) + timeDeltas[i]);
    });
  }
  // A thread that ends with the process leaves no profile: the shares are those of the others, of all that was spent.
  const known = [...spent.values()].reduce((a, b) => a + b, 0);
  const { cpu } = timeOurs(path);
  const startCpu = timeOurs(shortest(path)).cpu;
  const perFrame = ((cpu - startCpu) * 1e9) / (minutes * 60 * rate);
  return [
    ...[...spent].map(([stage, micros]) => [stage, (perFrame * micros) / known]),
    ['all of these', perFrame],
    ['starting (seconds, once)', startCpu],
  ];
}

/**
 * Whether cost grows with the length: what a minute costs in the second half of the file, beside one in the first. What a
 * run costs whatever its length (start, threads, compiling) is in neither.
 */
function linearity(path, minutes) {
  const part = (name, seconds) => {
    const target = join(folder, name);
    ffmpeg(['-i', path, '-t', String(seconds), '-c', 'copy', target]);
    return target;
  };
  const half = part('half.wav', minutes * 30);
  const tenth = part('tenth.wav', minutes * 6);
  const runs = Array.from({ length: 2 * RUNS }, () => [path, half, tenth].map((file) => timeOurs(file).cpu));
  // The least of each: what else the machine does only adds.
  const [whole, halved, tenthed] = [0, 1, 2].map((i) => Math.min(...runs.map((run) => run[i])));
  const late = (whole - halved) / (0.5 * minutes);
  const early = (halved - tenthed) / (0.4 * minutes);
  const fixed = tenthed - 0.1 * minutes * early;
  return `A minute of the second half costs ${(late / early).toFixed(2)} times what one of the first does, beyond the ${fixed.toFixed(2)} s that any run costs.`;
}

/** A second of the material: what is spent on it is the start. */
function shortest(path) {
  const second = join(folder, 'second.wav');
  ffmpeg(['-i', path, '-t', '1', '-c', 'copy', second]);
  return second;
}

function spread(list, key, digits = 2) {
  const values = list.map((entry) => entry[key]).sort((a, b) => a - b);
  const [median, least, greatest] = [values[values.length >> 1], values[0], values.at(-1)].map((v) =>
    v.toFixed(digits),
  );
  return `${median} (${least}–${greatest})`;
}

function writeTable() {
  const path = 'docs/performance.md';
  const [before] = readFileSync(path, 'utf8').split('<!-- measured -->');
  writeFileSync(path, `${before}<!-- measured -->\n\n${lines.join('\n')}\n`);
}
