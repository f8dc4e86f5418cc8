/**
 * Measures what lines cost: `npm run bench:live`. First a recording is written beyond 4 GiB and read back by FFmpeg; then lines of the app's own
 * server sound in real time, which takes some minutes (`npm run bench:live -- 7200` lets each load sound for two hours). `npm run build` comes first.
 * It takes 5 GB of the temporary folder.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { importTs } from './import-ts.mjs';

const seconds = Number(process.argv[2] ?? 30);

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
// Beside what is built, where packages with machine code, and the threads, are found.
const bundles = mkdtempSync(join('dist', 'bench-'));
try {
  const { recordLarge, loadOfLines } = await importTs('bench/live.ts', bundles, {
    packages: 'external',
    alias: { 'server-only': 'node:process' },
  });
  console.log(`${cpus().length} × ${cpus()[0]?.model?.trim()}, Node ${process.version}`);
  const large = await recordLarge(join(folder, 'large.wav'));
  console.log(
    `${(large.bytes / 2 ** 30).toFixed(2)} GiB recorded in ${large.seconds.toFixed(0)} s as ${large.id}; FFmpeg reads ${large.readFrames} of ${large.frames} frames, and ${large.isSame ? 'the same' : 'OTHER'} samples at its end`,
  );
  rmSync(join(folder, 'large.wav'));
  for (const { lines, recorded, percent, residentMb } of await loadOfLines(join(folder, 'data'), seconds)) {
    console.log(
      `${lines} lines, ${recorded} recorded, ${seconds} s: ${percent.toFixed(1)} % of one core, ${residentMb.toFixed(0)} MB`,
    );
  }
} finally {
  rmSync(folder, { recursive: true, force: true });
  rmSync(bundles, { recursive: true, force: true });
}
