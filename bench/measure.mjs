/**
 * Measures how fast files are measured, as a ratio to FFmpeg's own loudness filter in the same run: makes half an hour of
 * music of each kind (or of those whose name holds the argument), then runs both in turn, and prints the median, least
 * and greatest of each figure. `npm run build` comes first.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync } from 'node:fs';
import { cpus, loadavg, tmpdir } from 'node:os';
import { join } from 'node:path';

const RUNS = 5;
const MINUTES = 30;
const OURS = 'opsimeter measure';
const THEIRS = 'ffmpeg ebur128=peak=true';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
try {
  console.log(`${cpus().length} × ${cpus()[0]?.model}, Node ${process.version}, load ${loadavg()[0]?.toFixed(2)}`);
  for (const [name, format] of [
    ['48 kHz 24-bit stereo', ['-ar', '48000', '-c:a', 'pcm_s24le']],
    ['44.1 kHz 16-bit stereo', ['-ar', '44100', '-c:a', 'pcm_s16le']],
    ['96 kHz 24-bit stereo', ['-ar', '96000', '-c:a', 'pcm_s24le']],
    ['48 kHz 24-bit 5.1', ['-ar', '48000', '-c:a', 'pcm_s24le', '-ac', '6']],
  ]) {
    if (!name.includes(process.argv[2] ?? '')) continue;
    const path = join(folder, 'material.wav');
    makeMaterial(path, format);
    compare(name, path);
    rmSync(path);
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
}

/** Pink noise of two sides under chords and a pulse, swelling and falling: nothing that is easy to skip. */
function makeMaterial(path, format) {
  const seconds = MINUTES * 60;
  const swell = `(0.55+0.45*sin(2*PI*t/17))`;
  const chord = (hz) => `0.12*${swell}*(sin(2*PI*${hz}*t)+sin(2*PI*${hz * 1.5}*t)+sin(2*PI*${hz * 2.01}*t))`;
  const pulse = '0.5*sin(2*PI*55*t)*exp(-9*mod(t,0.5))';
  const { status, stderr } = spawnSync(
    'ffmpeg',
    [
      ...['-hide_banner', '-loglevel', 'error', '-y'],
      ...['-f', 'lavfi', '-i', `aevalsrc=exprs=${chord(220)}+${pulse}|${chord(221)}+${pulse}:s=48000:d=${seconds}`],
      ...['-f', 'lavfi', '-i', `anoisesrc=c=pink:a=0.25:s=1:r=48000:d=${seconds}`],
      ...['-filter_complex', '[1]aformat=channel_layouts=stereo[n];[0][n]amix=inputs=2:normalize=0'],
      ...format,
      path,
    ],
    { encoding: 'utf8' },
  );
  if (status !== 0) throw new Error(stderr);
}

function compare(name, path) {
  const runs = { [OURS]: [], [THEIRS]: [] };
  for (let run = 0; run <= RUNS; run++) {
    const ours = time(`"${process.execPath}" bin/opsimeter.mjs measure "${path}" --json`);
    const theirs = time(`ffmpeg -hide_banner -nostats -i "${path}" -af ebur128=peak=true -f null -`);
    // The first of each only warms the disk's cache.
    if (run === 0) continue;
    runs[OURS].push(ours);
    runs[THEIRS].push(theirs);
  }
  console.log(`\n${name}, ${MINUTES} min, ${(statSync(path).size / 1e6).toFixed(0)} MB`);
  for (const [command, list] of Object.entries(runs)) {
    console.log(`  ${command.padEnd(26)} wall ${spread(list, 'wall')} s   CPU ${spread(list, 'cpu')} s`);
  }
  const ratios = runs[OURS].map((ours, i) => ({
    wall: runs[THEIRS][i].wall / ours.wall,
    cpu: runs[THEIRS][i].cpu / ours.cpu,
  }));
  console.log(`  FFmpeg takes                wall ${spread(ratios, 'wall', 1)} ×   CPU ${spread(ratios, 'cpu', 1)} ×`);
}

/** Wall and CPU seconds of a command, as the shell tells them. */
function time(command) {
  const script = `TIMEFORMAT='%R %U %S'; { time ${command} >/dev/null 2>&1; } 2>&1`;
  const { stdout, status } = spawnSync('bash', ['-c', script], { encoding: 'utf8' });
  if (status !== 0) throw new Error(`${command} failed`);
  const [wall, user, system] = stdout.trim().split(' ').map(Number);
  return { wall, cpu: user + system };
}

function spread(list, key, digits = 2) {
  const values = list.map((entry) => entry[key]).sort((a, b) => a - b);
  const [median, least, greatest] = [values[values.length >> 1], values[0], values.at(-1)].map((v) =>
    v.toFixed(digits),
  );
  return `${median} (${least}–${greatest})`;
}
