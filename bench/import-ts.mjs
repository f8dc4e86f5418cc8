import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';

/** Bundles a TypeScript module into a folder, and imports it. `options` are esbuild’s. */
export async function importTs(entryPoint, folder, options = {}) {
  const outfile = join(folder, 'bundle.mjs');
  await build({
    entryPoints: [entryPoint],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    logLevel: 'warning',
    external: ['better-sqlite3', 'piscina'],
    ...options,
  });
  return import(pathToFileURL(outfile));
}
