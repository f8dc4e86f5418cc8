import { ensureDependencies } from './dependencies.mjs';

ensureDependencies();
const [{ bundle }, { buildKernels }] = await Promise.all([import('./bundle.mjs'), import('./kernels.mjs')]);
await buildKernels();
await bundle();
const { serve } = await import('../dist/serve.mjs');
await serve({ isDevelopment: true });
