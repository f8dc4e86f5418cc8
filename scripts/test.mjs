/** Installs what tests need, runs every check, and ends with "N passed, N failed". */
import { spawn, spawnSync } from 'node:child_process';
import { once } from 'node:events';
import { existsSync, mkdirSync, readFileSync, rmSync } from 'node:fs';
import { fileURLToPath } from 'node:url';
import { ensureDependencies, installTools, missingTools } from './dependencies.mjs';

process.chdir(fileURLToPath(new URL('..', import.meta.url)));
process.env.NEXT_TELEMETRY_DISABLED = '1';

/** Debian's packages of what tests run, by the program that each is wanted for. */
const TOOLS = {
  chromium: 'chromium',
  ffmpeg: 'ffmpeg',
  sox: 'sox',
  flac: 'flac',
  opusdec: 'opus-tools',
  faad: 'faad',
  mpg123: 'mpg123',
  cueprint: 'cuetools',
};
const RESULTS = 'test-results';
const counts = { passed: 0, failed: 0 };

const isInstalled = ensureDependencies({ isCompiledLater: true });
ensureTools();
// Nothing is fetched from here on, and what is read at the start of each of some hundred processes takes its time.
delete process.env.NODE_EXTRA_CA_CERTS;
rmSync(RESULTS, { recursive: true, force: true });
mkdirSync(RESULTS);

// What is compiled is not asked for before the pages are built: one core does the one, and another the other.
const [isBuilt] = await Promise.all([
  check('build', node('scripts/build.mjs')),
  (async () => {
    if (isInstalled) await check('packages are compiled', ['npm', ['rebuild', '--loglevel=error']]);
    await check('lint and format', node('node_modules/@biomejs/biome/bin/biome', 'check', '--error-on-warnings', '.'));
  })(),
]);
if (isBuilt) {
  // These read what the build makes.
  await Promise.all([
    check('types', node('node_modules/typescript/bin/tsc', '--noEmit')),
    check(
      'directions of the house',
      node('node_modules/dependency-cruiser/bin/dependency-cruise.mjs', 'src', '--config', '.dependency-cruiser.cjs'),
    ),
    check('dead code', node('node_modules/knip/bin/knip.js', '--no-config-hints')),
  ]);
  jest('unit tests', 'unit', 'src');
  jest('standards, command and server tests', 'whole', 'tests');
  browser();
}
console.log(`${counts.passed} passed, ${counts.failed} failed`);
process.exitCode = counts.failed > 0 ? 1 : 0;

function node(...args) {
  return [process.execPath, args];
}

/** Runs one command and returns whether it succeeded. */
function run([command, args], env = {}) {
  const { status } = spawnSync(command, args, { stdio: 'inherit', env: { ...process.env, ...env } });
  return status === 0;
}

/** A check that either holds or not. It may run beside others: what it says is printed in one piece. */
async function check(name, [command, args]) {
  const child = spawn(command, args, { stdio: ['ignore', 'pipe', 'pipe'] });
  const said = [];
  for (const stream of [child.stdout, child.stderr]) stream.on('data', (bytes) => said.push(bytes));
  const [status] = await once(child, 'close');
  const holds = status === 0;
  counts[holds ? 'passed' : 'failed']++;
  console.log(`\n— ${name}\n${Buffer.concat(said)}`);
  if (!holds) console.error(`${name}: failed`);
  return holds;
}

function jest(name, file, ...args) {
  console.log(`\n— ${name}`);
  const outputFile = `${RESULTS}/${file}.json`;
  run(
    node(
      '--experimental-vm-modules',
      '--no-warnings',
      'node_modules/jest/bin/jest.js',
      ...args,
      '--json',
      `--outputFile=${outputFile}`,
    ),
    {
      // The workers of the test runner inherit it.
      NODE_OPTIONS: '--experimental-vm-modules --no-warnings',
    },
  );
  const results = readResults(outputFile);
  counts.passed += results?.numPassedTests ?? 0;
  // A suite that could not even start has no failed test of its own.
  counts.failed += results ? results.numFailedTests + results.numRuntimeErrorTestSuites : 1;
}

function browser() {
  console.log('\n— browser tests');
  run(node('node_modules/@playwright/test/cli.js', 'test'));
  const stats = readResults(`${RESULTS}/e2e.json`)?.stats;
  counts.passed += stats?.expected ?? 0;
  counts.failed += stats ? stats.unexpected + stats.flaky : 1;
}

function readResults(path) {
  return existsSync(path) ? JSON.parse(readFileSync(path, 'utf8')) : undefined;
}

/** Chromium, FFmpeg, and decoders that are not FFmpeg's: installed when they are missing and this may be done. */
function ensureTools() {
  const missing = missingTools(Object.keys(TOOLS)).map((tool) => TOOLS[tool]);
  if (missing.length === 0 || installTools(missing)) return;
  console.error(`The tests need ${missing.join(' and ')}. As root: apt-get install ${missing.join(' ')}`);
  process.exit(1);
}
