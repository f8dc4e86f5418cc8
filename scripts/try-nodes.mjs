/**
 * Runs `npm test` on other versions of Node.js, each on a clone of what is committed: node scripts/try-nodes.mjs [22 24].
 * The binaries come from npm's package `node`. It takes as long as the tests do, for each of them.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';

const versions = process.argv.length > 2 ? process.argv.slice(2) : ['22', '24'];
const results = versions.map((version) => {
  const folder = mkdtempSync(join(tmpdir(), `opsimeter-node-${version}-`));
  try {
    run('git', ['clone', '--quiet', '.', folder], process.cwd());
    const isFine = run('npx', npx(version, 'npm', 'test'), folder, headersOf(version));
    return `Node.js ${version}: ${isFine ? 'passed' : 'failed'}`;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
console.log(results.join('\n'));
process.exitCode = results.every((result) => result.endsWith('passed')) ? 0 : 1;

function npx(version, ...command) {
  return ['--yes', '-p', `node@${version}`, '--', ...command];
}

/** What is compiled is compiled for this version: its headers lie beside its binary, or in the package for this machine. */
function headersOf(version) {
  const { stdout } = spawnSync('npx', npx(version, 'node', '-p', 'process.execPath'), { encoding: 'utf8' });
  const own = dirname(dirname(stdout.trim()));
  const folders = [own, join(own, 'node_modules', `node-${process.platform}-${process.arch}`)];
  const nodedir = folders.find((folder) => existsSync(join(folder, 'include', 'node', 'node.h')));
  return nodedir ? { npm_config_nodedir: nodedir } : {};
}

function run(command, args, cwd, env = {}) {
  return spawnSync(command, args, { cwd, stdio: 'inherit', env: { ...process.env, ...env } }).status === 0;
}
