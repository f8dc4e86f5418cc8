import { bundle } from './bundle.mjs';
import { run } from './dependencies.mjs';
import { buildKernels } from './kernels.mjs';

await buildKernels();
await bundle();
run(process.execPath, ['node_modules/next/dist/bin/next', 'build'], {
  env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
});
