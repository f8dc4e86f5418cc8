/**
 * Runs `npm test` on other versions of Node.js, each on a clone of what is committed: node scripts/try-nodes.mjs [22 24].
 * The binaries come from npm's package `node`. It takes as long as the tests do, for each of them.
 */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';

const versions = process.argv.length > 2 ? process.argv.slice(2) : ['22', '24'];
const results = versions.map((version) => {
  const folder = mkdtempSync(join(tmpdir(), `opsimeter-node-${version}-`));
  try {
    run('git', ['clone', '--quiet', '.', folder], process.cwd());
    const isFine = run('npx', ['--yes', '-p', `node@${version}`, '--', 'npm', 'test'], folder);
    return `Node.js ${version}: ${isFine ? 'passed' : 'failed'}`;
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
});
console.log(results.join('\n'));
process.exitCode = results.every((result) => result.endsWith('passed')) ? 0 : 1;

function run(command, args, cwd) {
  return spawnSync(command, args, { cwd, stdio: 'inherit' }).status === 0;
}
