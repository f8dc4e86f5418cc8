import { bundle } from './bundle.mjs';
import { run } from './dependencies.mjs';

await bundle();
run(process.execPath, ['node_modules/next/dist/bin/next', 'build'], {
  env: { ...process.env, NEXT_TELEMETRY_DISABLED: '1' },
});
