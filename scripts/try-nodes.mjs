/**
 * Runs `npm test` on other versions of Node.js, each on a clone of what is committed: node scripts/try-nodes.mjs [22 24].
 * The binaries, and the headers that packages are compiled with, come from npm's packages `node-PLATFORM-ARCH`. It takes as long as
 * the tests do, for each of them.
 */
import { spawnSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { delimiter, join } from 'node:path';

const versions = process.argv.length > 2 ? process.argv.slice(2) : ['22', '24'];
const results = versions.map((version) => {
  const folder = mkdtempSync(join(tmpdir(), `opsimeter-node-${version}-`));
  try {
    return `Node.js ${version}: ${isPassing(version, folder) ? 'passed' : 'failed'}`;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
console.log(results.join('\n'));
process.exitCode = results.every((result) => result.endsWith('passed')) ? 0 : 1;

function isPassing(version, folder) {
  const name = `node-${process.platform === 'win32' ? 'win' : process.platform}-${process.arch}`;
  const [own, clone] = [join(folder, 'node'), join(folder, 'clone')];
  mkdirSync(own);
  if (!run('npm', ['install', '--prefix', own, '--no-audit', '--no-fund', `${name}@${version}`], own)) return false;
  const node = join(own, 'node_modules', name);
  const env = {
    ...process.env,
    PATH: `${join(node, 'bin')}${delimiter}${process.env.PATH}`,
    // Else what is compiled might be compiled for the version that this script runs on.
    npm_config_nodedir: node,
  };
  return (
    run('git', ['clone', '--quiet', process.cwd(), clone], folder) &&
    run('node', ['--version'], clone, env) &&
    run('npm', ['test'], clone, env)
  );
}

function run(command, args, cwd, env = process.env) {
  return spawnSync(command, args, { cwd, stdio: 'inherit', env }).status === 0;
}
