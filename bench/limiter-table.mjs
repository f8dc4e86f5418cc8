/**
 * The limiter beside FFmpeg's `alimiter` and `loudnorm` at equal loudness: node bench/limiter-table.mjs.
 * Makes its own material; needs FFmpeg. Writes the table into docs/limiter.md.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-bench-'));
try {
  const outfile = join(folder, 'limiter-table.mjs');
  await build({
    entryPoints: ['bench/limiter-table.ts'],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'warning',
  });
  await (await import(pathToFileURL(outfile))).run(folder);
} finally {
  rmSync(folder, { recursive: true });
}
