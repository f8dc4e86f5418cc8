import { build } from 'esbuild';

/** Bundles a program of tests/fixtures, which is to be a process of its own, into a file within the project, where its packages are found. */
export async function bundleFixture(name, outfile) {
  await build({
    entryPoints: [`tests/fixtures/${name}.ts`],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    packages: 'external',
    logLevel: 'warning',
    alias: { 'server-only': 'node:process' },
  });
}
