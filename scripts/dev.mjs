import { bundle } from './bundle.mjs';
import { ensureDependencies } from './dependencies.mjs';

ensureDependencies();
await bundle(['worker', 'cli']);
const { serve } = await import('./serve.mjs');
await serve({ dev: true });
