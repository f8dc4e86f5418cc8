/**
 * Measures what the pages of a job of 2,000 programmes take on the server, beside those of a job of one: npm run bench:pages.
 * `npm run build` comes first.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { importTs } from './import-ts.mjs';

const RUNS = 9;
const PROGRAMMES = 2000;
const PORT = 4398;

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
const data = join(folder, 'data');
// Beside what is built, where packages with machine code are found.
const bundles = mkdtempSync(join('dist', 'bench-'));
const { makeJobs } = await importTs('bench/pages.ts', bundles, {
  packages: 'external',
  alias: { 'server-only': 'node:process' },
});
const { few, many } = await makeJobs(data, PROGRAMMES);
const server = spawn(process.execPath, ['scripts/serve.mjs'], {
  env: { ...process.env, NODE_ENV: 'production', OPSIMETER_DATA: data, PORT: String(PORT) },
  stdio: ['ignore', 'pipe', 'inherit'],
});
try {
  await new Promise((resolve) => server.stdout.on('data', (bytes) => String(bytes).includes('is at') && resolve()));
  for (const stage of ['take-in', 'measure-and-set', 'hand-over']) {
    const [one, all] = [[], []];
    for (let run = 0; run < RUNS; run++) {
      one.push(await timed(few, stage));
      all.push(await timed(many, stage));
    }
    const [oneMs, allMs] = [median(one), median(all)];
    console.log(
      `${stage}: ${allMs.toFixed(0)} ms for ${PROGRAMMES}, ${oneMs.toFixed(0)} ms for one: ${(allMs / oneMs).toFixed(1)} ×`,
    );
  }
} finally {
  server.kill();
  rmSync(folder, { recursive: true, force: true });
  rmSync(bundles, { recursive: true, force: true });
}

async function timed(jobId, stage) {
  const started = performance.now();
  await (await fetch(`http://127.0.0.1:${PORT}/jobs/${jobId}/${stage}`)).text();
  return performance.now() - started;
}

function median(values) {
  return values.sort((a, b) => a - b)[Math.floor(values.length / 2)];
}
