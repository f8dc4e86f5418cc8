/**
 * Every call of every kind of work and every operation of the API fails once with each of three errors, and is the last one of its process once:
 * npm run faults [NAME]. It takes an hour or so, and prints how many were tried and what was wrong.
 */
import { spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createInterface } from 'node:readline';
import { bundleFixture } from './bundle-fixture.mjs';

const [only = ''] = process.argv.slice(2);
mkdirSync('test-results', { recursive: true });
const script = `test-results/faulty-work.${process.pid}.mjs`;
await bundleFixture('faulty-work', script);
const folder = mkdtempSync(join(tmpdir(), 'opsimeter-faults-'));
const env = { ...process.env, OPSIMETER_LOG: 'silent', OPSIMETER_KEY_FILE: join(folder, 'key') };
let all = 0;
let wrong = 0;
for (const shift of ['0', '1', '2', 'kill']) {
  const own = join(folder, shift);
  mkdirSync(own);
  const args = ['--import', './tests/fixtures/faults.mjs', script, own, '1', '0', shift, ...(only ? [only] : [])];
  const child = spawn(process.execPath, args, { env, stdio: ['ignore', 'pipe', 'ignore'] });
  const ended = once(child, 'exit');
  for await (const line of createInterface({ input: child.stdout })) {
    const tried = JSON.parse(line);
    all += tried.points;
    wrong += tried.wrong.length;
    console.log(`${shift.padEnd(4)} ${tried.name.padEnd(50)} ${String(tried.points).padStart(5)} calls`);
    for (const text of tried.wrong) console.log(`     ${text}`);
  }
  if ((await ended)[0] !== 0) wrong++;
}
rmSync(folder, { recursive: true, force: true });
rmSync(script, { force: true });
console.log(`${all} points tried, ${wrong} wrong`);
process.exitCode = wrong > 0 ? 1 : 0;
