/**
 * Measures what the pages of a job of 2,000 programmes take on the server, and how soon it answers what is asked of 200 programmes at once,
 * beside those of a job of one; and how long it takes to start with 50,000 sources: npm run bench:pages.
 * `npm run build` comes first.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { importTs } from './import-ts.mjs';

const RUNS = 9;
const PROGRAMMES = 2000;
const ASKED = 200;
const SOURCES = 50_000;
const WISHES = [
  { kind: 'meet', specId: 'ebu-r128' },
  { kind: 'deliver', specId: 'ebu-r128' },
  { kind: 'review', specId: 'ebu-r128' },
  { kind: 'treatment', change: { gainDb: -2 } },
  { kind: 'tags', tags: { artist: 'Somebody' } },
];
const PORT = 4398;

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
const data = join(folder, 'data');
// Beside what is built, where packages with machine code are found.
const bundles = mkdtempSync(join('dist', 'bench-'));
const { askOfSheet, makeJobs, startWith } = await importTs('bench/pages.ts', bundles, {
  packages: 'external',
  alias: { 'server-only': 'node:process' },
});
const { few, some, many, ids } = await makeJobs(data, { some: ASKED, many: PROGRAMMES });
const [oneStartMs, manyStartMs] = [
  await startWith(join(folder, 'one'), 1),
  await startWith(join(folder, 'sources'), SOURCES),
];
console.log(`started in ${manyStartMs.toFixed(0)} ms with ${SOURCES} sources, in ${oneStartMs.toFixed(0)} ms with one`);
const ofSheet = [];
for (let run = 0; run < RUNS; run++) {
  ofSheet.push({ one: await askOfSheet(data, few, ids.few), all: await askOfSheet(data, some, ids.some) });
}
for (const [i, { asked }] of ofSheet[0].all.entries()) {
  const [oneMs, allMs] = ['one', 'all'].map((whom) => median(ofSheet.map((run) => run[whom][i].ms)));
  console.log(`${asked}: ${allMs.toFixed(0)} ms for ${ASKED}, ${oneMs.toFixed(0)} ms for one`);
}
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
  for (const wish of WISHES) {
    const [one, all] = [[], []];
    for (let run = 0; run < RUNS; run++) {
      one.push(await answered(few, ids.few, wish));
      all.push(await answered(some, ids.some, wish));
    }
    const [oneMs, allMs] = [median(one), median(all)];
    console.log(`${wish.kind}: answered in ${allMs.toFixed(0)} ms for ${ASKED}, ${oneMs.toFixed(0)} ms for one`);
  }
} finally {
  server.kill();
  rmSync(folder, { recursive: true, force: true });
  rmSync(bundles, { recursive: true, force: true });
}

/** How soon it is answered that something was asked of programmes. What it comes to is waited for, so that it stands in nobody's way. */
async function answered(jobId, programmeIds, wish) {
  const address = `http://127.0.0.1:${PORT}/api/jobs/${jobId}/batches`;
  const started = performance.now();
  const response = await fetch(address, {
    method: 'POST',
    headers: { 'content-type': 'application/json' },
    body: JSON.stringify({ programmeIds, wish }),
  });
  const { batchId } = await response.json();
  const ms = performance.now() - started;
  if (!response.ok) throw new Error(`${wish.kind} was answered with ${response.status}`);
  for (;;) {
    const { batches } = await (await fetch(address)).json();
    const task = batches.find(({ id }) => id === batchId)?.task;
    if (task?.state !== 'queued' && task?.state !== 'running') return ms;
    await new Promise((resolve) => setTimeout(resolve, 50));
  }
}

async function timed(jobId, stage) {
  const started = performance.now();
  await (await fetch(`http://127.0.0.1:${PORT}/jobs/${jobId}/${stage}`)).text();
  return performance.now() - started;
}

function median(values) {
  return values.sort((a, b) => a - b)[Math.floor(values.length / 2)];
}
