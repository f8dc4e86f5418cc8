/**
 * Measures how fast a programme is handed over as WAV, FLAC and MP3 (read, solved, written, read back and measured) beside
 * FFmpeg's two-pass loudnorm to the same format in the same run: npm run bench:hand-over. `npm run build` comes first.
 * Prints only, unless it is told to write its table into docs/hand-over.md: npm run bench:hand-over -- --write.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { importTs } from './import-ts.mjs';
import { loudnorm } from './loudnorm.mjs';
import { writeTable } from './write-table.mjs';

const RUNS = 3;
const MINUTES = 5;
const DOCUMENT = 'docs/hand-over.md';
const FORMATS = [
  { name: 'WAV, 24 bits', extension: 'wav', codec: ['-c:a', 'pcm_s24le'] },
  {
    name: 'FLAC, 24 bits',
    extension: 'flac',
    codec: ['-c:a', 'flac', '-sample_fmt', 's32'],
  },
  { name: 'MP3, 192 kbit/s constant', extension: 'mp3', codec: ['-c:a', 'libmp3lame', '-b:a', '192k'] },
];

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
try {
  const { makeSong } = await importTs('bench/master.ts', folder);
  const path = join(folder, 'song.wav');
  await makeSong(path, MINUTES);
  const runs = FORMATS.map(() => []);
  for (let run = 0; run < RUNS; run++) {
    FORMATS.forEach((format, i) => {
      const out = join(folder, `out${run}.${format.extension}`);
      const ours = timed(() => opsimeter('master', path, '--spec', 'ebu-r128', '--out', out));
      const theirs = timed(() => loudnorm(path, join(folder, `norm${run}.${format.extension}`), -23, format.codec));
      runs[i].push({ ours, theirs });
      rmSync(out);
    });
  }
  const spread = (values, digits) => {
    const sorted = [...values].sort((a, b) => a - b);
    const text = (value) => value.toFixed(digits);
    return `${text(sorted[Math.floor(sorted.length / 2)])} (${text(sorted[0])}–${text(sorted.at(-1))})`;
  };
  const table = [
    `${MINUTES} minutes of 48 kHz stereo for EBU R 128, whole processes; median of ${RUNS} runs (least–greatest) on ${cpus().length} × ${cpus()[0]?.model?.trim()}, Node ${process.version}.`,
    '',
    '| | × real time | two-pass `loudnorm`, s | its time ÷ ours |',
    '|---|---|---|---|',
    ...FORMATS.map(({ name }, i) => {
      const own = runs[i];
      const speed = spread(
        own.map(({ ours }) => (60 * MINUTES) / ours),
        0,
      );
      const ratio = spread(
        own.map(({ ours, theirs }) => theirs / ours),
        1,
      );
      return `| ${name} | ${speed} | ${spread(
        own.map(({ theirs }) => theirs),
        1,
      )} | ${ratio} |`;
    }),
  ].join('\n');
  writeTable(DOCUMENT, table);
} finally {
  rmSync(folder, { recursive: true });
}

function timed(work) {
  const startedMs = performance.now();
  work();
  return (performance.now() - startedMs) / 1000;
}

function opsimeter(...args) {
  const { status, stderr } = spawnSync(process.execPath, ['bin/opsimeter.mjs', ...args], { encoding: 'utf8' });
  if (status !== 0) throw new Error(stderr);
}
