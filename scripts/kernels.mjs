/** Compiles the kernels and writes them as a module that every bundler, thread and worklet can load. */
import { mkdirSync, writeFileSync } from 'node:fs';
import asc from 'assemblyscript/asc';

const OPTIONS = [
  '--enable',
  'simd',
  '-O3',
  '--noAssert',
  '--runtime',
  'stub',
  '--importMemory',
  '--initialMemory',
  '1',
  // Functions keep their names, for profiles.
  '--debug',
  '--memoryBase',
  '1024',
];

const MODULES = ['meter', 'limiter', 'pcm'];

export async function buildKernels() {
  mkdirSync('src/kernels/generated', { recursive: true });
  for (const name of MODULES) {
    const path = `src/kernels/assembly/${name}.ts`;
    const { error, stderr, binary } = await compile(path);
    if (error) throw new Error(`${path} could not be compiled: ${stderr}`);
    const constant = `${name.toUpperCase()}_WASM`;
    writeFileSync(
      `src/kernels/generated/${name}-wasm.ts`,
      `/** Made from ${path} by scripts/kernels.mjs; not to be edited. */\nexport const ${constant} =\n  '${Buffer.from(binary).toString('base64')}';\n`,
    );
  }
}

async function compile(path) {
  let binary;
  const { error, stderr } = await asc.main([path, ...OPTIONS, '--outFile', 'kernel.wasm'], {
    writeFile: (_name, contents) => {
      binary = contents;
    },
  });
  return { error, stderr: stderr.toString(), binary };
}
