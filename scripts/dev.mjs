import { ensureDependencies } from './dependencies.mjs';

ensureDependencies();
const [{ bundle }, { buildKernels }] = await Promise.all([import('./bundle.mjs'), import('./kernels.mjs')]);
await buildKernels();
await bundle();
const { serve } = await import('./serve.mjs');
await serve({ dev: true });
