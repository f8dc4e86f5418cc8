/**
 * Measures how fast forty programmes of four minutes are solved, limited, written and verified together by the app's own server:
 * npm run bench:many. `npm run build` comes first. It takes some minutes, and 6 GB of the temporary folder.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { importTs } from './import-ts.mjs';

const COUNT = 40;
const MINUTES = 4;

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
// Beside what is built, where packages with machine code, and the threads, are found.
const bundles = mkdtempSync(join('dist', 'bench-'));
try {
  const { deliverMany } = await importTs('bench/many.ts', bundles, {
    packages: 'external',
    alias: { 'server-only': 'node:process' },
  });
  const { seconds, inside, limited } = await deliverMany(join(folder, 'data'), { count: COUNT, minutes: MINUTES });
  const speed = (COUNT * MINUTES * 60) / seconds;
  console.log(`${cpus().length} × ${cpus()[0]?.model?.trim()}, Node ${process.version}`);
  console.log(
    `${COUNT} programmes of ${MINUTES} minutes: ${seconds.toFixed(0)} s, ${speed.toFixed(0)} × real time; ${inside} inside, ${limited} limited`,
  );
} finally {
  rmSync(folder, { recursive: true, force: true });
  rmSync(bundles, { recursive: true, force: true });
}
