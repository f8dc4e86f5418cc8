/** Bundles what runs outside the pages: the headless command, the worker threads and the demo's seeding. */
import { build } from 'esbuild';

export const entries = {
  cli: 'src/cli/entry.ts',
  worker: 'src/workers/node/worker.ts',
  helper: 'src/workers/node/helper.ts',
  'hash-thread': 'src/workers/node/hash-thread.ts',
  seed: 'src/cli/seed.ts',
};

export async function bundle(names = Object.keys(entries)) {
  await build({
    entryPoints: Object.fromEntries(names.map((name) => [name, entries[name]])),
    outdir: 'dist',
    outExtension: { '.js': '.mjs' },
    bundle: true,
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
