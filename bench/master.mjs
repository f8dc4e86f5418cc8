/**
 * Measures how fast a song is limited, written and measured again, and how soon its gain is solved, beside FFmpeg's
 * two-pass loudnorm to the same format in the same run: npm run bench:master. `npm run build` comes first. Prints only,
 * unless it is told to write its table into docs/limiter.md: npm run bench:master -- --write.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { importTs } from './import-ts.mjs';
import { loudnorm } from './loudnorm.mjs';
import { writeTable } from './write-table.mjs';

const RUNS = 5;
const DOCUMENT = 'docs/limiter.md';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
try {
  const { makeSong, work } = await importTs('bench/master.ts', folder);
  const path = join(folder, 'song.wav');
  const minutes = 5;
  await makeSong(path, minutes);
  const runs = [];
  for (let run = 0; run < RUNS; run++) {
    const ours = await work(path, join(folder, `out${run}`));
    const startedMs = performance.now();
    loudnorm(path, join(folder, `norm${run}.wav`), -11, ['-c:a', 'pcm_s24le']);
    const loudnormSeconds = (performance.now() - startedMs) / 1000;
    runs.push({ ...ours, loudnormSeconds });
    console.log(JSON.stringify(runs.at(-1)));
  }
  const seconds = 60 * minutes;
  const spread = (of, digits = 2) => {
    const values = runs.map(of).sort((a, b) => a - b);
    const text = (value) => value.toFixed(digits);
    return `${text(values[Math.floor(values.length / 2)])} (${text(values[0])}–${text(values.at(-1))})`;
  };
  const table = [
    `Five minutes of 48 kHz stereo, ${runs[0].greatestDb.toFixed(1)} dB of limiting; median of ${RUNS} runs (least–greatest) on ${cpus().length} × ${cpus()[0]?.model?.trim()}, Node ${process.version}.`,
    '',
    '| | |',
    '|---|---|',
    `| written and measured again, × real time | ${spread((run) => seconds / (run.renderSeconds + run.verifySeconds), 0)} |`,
    `| of that, written and held against the ceiling, s | ${spread((run) => run.renderSeconds)} |`,
    `| measured from the written file, s | ${spread((run) => run.verifySeconds)} |`,
    `| solved from the file, nothing known but its readings, s | ${spread((run) => run.solveSeconds)} |`,
    `| a forecast with the limiter, ms | ${spread((run) => 1000 * run.forecastSeconds, 0)} |`,
    `| the answers for every spec there is, ms | ${spread((run) => 1000 * run.everySpecSeconds, 0)} |`,
    `| FFmpeg \`loudnorm\`, two passes to 24 bits, s | ${spread((run) => run.loudnormSeconds)} |`,
    `| its time ÷ ours, solved, written and measured | ${spread((run) => run.loudnormSeconds / (run.solveSeconds + run.renderSeconds + run.verifySeconds), 1)} |`,
  ].join('\n');
  writeTable(DOCUMENT, table);
} finally {
  rmSync(folder, { recursive: true });
}
