#!/usr/bin/env node
import { existsSync } from 'node:fs';

const entry = new URL('../dist/cli.mjs', import.meta.url);
if (existsSync(entry)) {
  await import(entry.href);
} else {
  process.stderr.write('opsimeter: not built yet. Run "npm ci && npm run build" first.\n');
  process.exitCode = 2;
}
