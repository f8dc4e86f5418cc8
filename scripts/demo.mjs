/** One command from a fresh clone to the running app with its demo job. Run again, it only serves. */
import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { fileURLToPath } from 'node:url';
import { ensureDependencies, installTools, missingTools, run } from './dependencies.mjs';

const root = fileURLToPath(new URL('..', import.meta.url));
process.chdir(root);
process.env.NEXT_TELEMETRY_DISABLED = '1';

ensureDependencies();
ensureFfmpeg();
buildIfChanged();
seedOnce();
await import('./serve.mjs');

/** Without FFmpeg the app runs, and says what it can't open. */
function ensureFfmpeg() {
  if (process.env.OPSIMETER_FFMPEG || missingTools(['ffmpeg']).length === 0 || installTools(['ffmpeg'])) return;
  console.log('FFmpeg is not there and could not be installed: only WAV and AIFF can be taken in.');
}

/** Builds where anything that is built from has changed since the last time. */
function buildIfChanged() {
  const stamp = join('dist', 'built-from');
  const hash = createHash('sha256');
  for (const path of ['package-lock.json', 'next.config.ts', 'scripts', 'src']) hashInto(hash, path);
  const now = hash.digest('hex');
  if (existsSync(stamp) && existsSync('.next/BUILD_ID') && readFileSync(stamp, 'utf8') === now) return;
  console.log('Building …');
  run(process.execPath, ['scripts/build.mjs']);
  writeFileSync(stamp, now);
}

function hashInto(hash, path) {
  if (statSync(path).isDirectory()) {
    // What the build itself makes is no reason to build again.
    const names = readdirSync(path).filter((name) => name !== 'generated');
    for (const name of names.sort()) hashInto(hash, join(path, name));
  } else {
    hash.update(path).update(readFileSync(path));
  }
}

function seedOnce() {
  const data = resolve(process.env.OPSIMETER_DATA ?? 'data');
  const stamp = join(data, 'seeded');
  if (existsSync(stamp)) return;
  console.log('Making the demo job …');
  mkdirSync(data, { recursive: true });
  run(process.execPath, ['dist/seed.mjs']);
  writeFileSync(stamp, new Date().toISOString());
}
