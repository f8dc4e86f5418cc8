/** Bundles what runs outside the pages: the headless command, the worker threads and the demo's seeding. */
import { rmSync } from 'node:fs';
import { build } from 'esbuild';

const OUTPUT = 'dist';

const entries = {
  cli: 'src/cli/entry.ts',
  worker: 'src/workers/node/worker.ts',
  helper: 'src/workers/node/helper.ts',
  'hash-thread': 'src/workers/node/hash-thread.ts',
  seed: 'src/cli/seed.ts',
};

export async function bundle() {
  // Parts are named by what is in them: old ones would stay.
  rmSync(OUTPUT, { recursive: true, force: true });
  await build({
    entryPoints: entries,
    outdir: OUTPUT,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    // What few commands need is not loaded by all.
    splitting: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    minify: true,
    keepNames: true,
    sourcemap: true,
    logLevel: 'warning',
    external: ['better-sqlite3', 'piscina', 'drizzle-orm', '@tus/server', '@tus/file-store'],
    conditions: ['react-server'],
  });
}
