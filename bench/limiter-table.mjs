/**
 * The limiter beside FFmpeg's `alimiter` and `loudnorm` at equal loudness: npm run bench:limiter.
 * Makes its own material; needs FFmpeg. Writes the table into docs/limiter.md.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { importTs } from './import-ts.mjs';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
try {
  const { run } = await importTs('bench/limiter-table.ts', folder);
  await run(folder);
} finally {
  rmSync(folder, { recursive: true });
}
