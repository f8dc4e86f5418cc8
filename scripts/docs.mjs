/** Writes docs/reference.md from the lists that the app works with: npm run docs. */
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { pathToFileURL } from 'node:url';
import { build } from 'esbuild';

// Within the project, where packages are found.
mkdirSync('dist', { recursive: true });
const folder = mkdtempSync(join('dist', 'docs-'));
try {
  const outfile = join(folder, 'reference.mjs');
  await build({
    entryPoints: ['src/server/reference.ts'],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    packages: 'external',
    logLevel: 'warning',
  });
  const { reference } = await import(pathToFileURL(outfile));
  writeFileSync('docs/reference.md', reference());
} finally {
  rmSync(folder, { recursive: true, force: true });
}
