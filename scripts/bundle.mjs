/** Bundles what runs outside the pages: the headless command, the worker threads and the demo's seeding. */
import { rmSync } from 'node:fs';
import { build } from 'esbuild';

const OUTPUT = 'dist';
const REQUIRE = "import { createRequire } from 'node:module'; const require = createRequire(import.meta.url);";

/** What few runs of the command need is not loaded by all, so it comes in parts. */
const COMMAND = { cli: 'src/cli/entry.ts' };
/**
 * Each of these is one file: a thread that is ended while it still loads parts can take the whole process with it
 * (Node.js 20, `require` of a module graph).
 */
const WHOLE = {
  helper: 'src/workers/node/helper.ts',
  'hash-thread': 'src/workers/node/hash-thread.ts',
  'follow-thread': 'src/workers/node/follow-thread.ts',
  'line-thread': 'src/workers/node/line-thread.ts',
  seed: 'src/cli/seed.ts',
  serve: 'src/door/serve.ts',
};

/**
 * The pool loads this with `require`, as a CommonJS module: as an ES module, a thread that is ended meanwhile would take
 * the process with it (Node.js 20, the facade that `require` makes for one).
 */
const REQUIRED = { worker: 'src/workers/node/worker.ts' };

/** The computation as a library, for whatever runs JavaScript. */
const LIBRARY = { core: 'src/core/index.ts' };

/** What a page loads by itself. */
const PUBLIC = {
  'audition-worklet': 'src/workers/browser/audition-worklet.ts',
  'capture-worklet': 'src/workers/browser/capture-worklet.ts',
};

export async function bundle() {
  // Parts are named by what is in them: old ones would stay.
  rmSync(OUTPUT, { recursive: true, force: true });
  await Promise.all([
    // A package of the older kind asks for Node.js's own modules by `require`.
    buildEntries(COMMAND, { splitting: true, banner: { js: REQUIRE } }),
    buildEntries(WHOLE),
    buildEntries(LIBRARY, { platform: 'neutral', target: 'es2022', external: [] }),
    buildEntries(PUBLIC, { outdir: 'public', outExtension: {}, platform: 'browser', target: 'es2022', external: [] }),
    buildEntries(REQUIRED, { format: 'cjs', outExtension: { '.js': '.cjs' } }),
  ]);
}

function buildEntries(entryPoints, options = {}) {
  return build({
    entryPoints,
    outdir: OUTPUT,
    outExtension: { '.js': '.mjs' },
    bundle: true,
    platform: 'node',
    format: 'esm',
    target: 'node20',
    minify: true,
    keepNames: true,
    sourcemap: true,
    logLevel: 'warning',
    external: [
      'better-sqlite3',
      'piscina',
      'drizzle-orm',
      '@tus/server',
      '@tus/file-store',
      'node-taglib-sharp',
      'pino',
      'next',
      'sharp',
      'undici',
      'pdfkit',
      'prom-client',
      '@node-rs/argon2',
    ],
    conditions: ['react-server'],
    ...options,
  });
}
