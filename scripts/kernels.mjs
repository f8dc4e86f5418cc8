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

export async function buildKernels() {
  const { error, stderr, binary } = await compile('src/kernels/assembly/meter.ts');
  if (error) throw new Error(`the kernels could not be compiled: ${stderr}`);
  mkdirSync('src/kernels/generated', { recursive: true });
  writeFileSync(
    'src/kernels/generated/meter-wasm.ts',
    `/** Made from src/kernels/assembly/meter.ts by scripts/kernels.mjs; not to be edited. */\nexport const METER_WASM =\n  '${Buffer.from(binary).toString('base64')}';\n`,
  );
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
