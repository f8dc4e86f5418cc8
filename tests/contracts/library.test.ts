/** The examples of docs/library.md do what is written below them. */
import { spawnSync } from 'node:child_process';
import { mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { build } from 'esbuild';
import { measureSamples } from '@/core';

const FOLDER = resolve('test-results/library');
const EXAMPLES = [...readFileSync('docs/library.md', 'utf8').matchAll(/```ts\n([\s\S]*?)```/g)].map(
  ([, source = '']) => source,
);
beforeAll(() => mkdirSync(FOLDER, { recursive: true }));
afterAll(() => rmSync(FOLDER, { recursive: true, force: true }));

test.each(EXAMPLES.map((source, i) => [i + 1, source] as const))('example %i', async (i, source) => {
  const entry = join(FOLDER, `example${i}.ts`);
  const outfile = join(FOLDER, `example${i}.mjs`);
  writeFileSync(entry, source);
  await build({
    entryPoints: [entry],
    outfile,
    bundle: true,
    platform: 'node',
    format: 'esm',
    alias: { 'opsimeter/core': resolve('src/core/index.ts') },
    logLevel: 'warning',
  });
  const { stdout, stderr } = spawnSync(process.execPath, [outfile], { encoding: 'utf8' });
  const said = [...source.matchAll(/\/\/ → (.*)\n/g)].map(([, line = '']) => line);
  expect(said.length).toBeGreaterThan(0);
  expect({ out: stdout.trim().split('\n'), err: stderr }).toEqual({ out: said, err: '' });
});

test('what can not be measured throws what is documented', () => {
  const second = new Float32Array(48_000);
  expect(() => measureSamples([], { sampleRateHz: 48_000 })).toThrow(RangeError);
  expect(() => measureSamples([second, second.subarray(1)], { sampleRateHz: 48_000 })).toThrow(RangeError);
  expect(() => measureSamples([second], { sampleRateHz: 4000 })).toThrow(RangeError);
  expect(() => measureSamples([second], { sampleRateHz: Number.NaN })).toThrow(RangeError);
});
