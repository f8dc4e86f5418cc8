/**
 * Some of the calls that each kind of work and each operation of the API make to the disk, the database and the system fail:
 * nothing acknowledged is lost, nothing is left behind, nothing waits for ever. `npm run faults` tries every one of them.
 */
import { execFile } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { promisify } from 'node:util';
import { OPERATIONS } from '@/server/http/operations';
import { REQUESTS } from '../fixtures/api-requests';
import { bundled } from '../fixtures/bundled';

const STEP = 12;
/** Each call that fails is followed by a new start of the app. */
const MOST_MS = 300_000;

interface Tried {
  name: string;
  points: number;
  wrong: string[];
}

test(
  'whichever call fails, what was acknowledged is there afterwards, and nothing else',
  async () => {
    const script = await bundled('faulty-work');
    const folder = mkdtempSync(join(tmpdir(), 'opsimeter-faults-'));
    // Others by hand: from which call on.
    const offset = Number(process.env.OPSIMETER_TEST_SEED ?? 0);
    try {
      const { stdout } = await promisify(execFile)(
        process.execPath,
        ['--import', './tests/fixtures/faults.mjs', script, folder, String(STEP), String(offset), String(offset % 4)],
        { env: { ...process.env, NODE_OPTIONS: '', OPSIMETER_LOG: 'silent' } },
      );
      const tried = stdout
        .trim()
        .split('\n')
        .map((line) => JSON.parse(line) as Tried);
      const points = tried.reduce((sum, own) => sum + own.points, 0);
      console.info(`${points} calls failed, each ${STEP}th from the ${offset + 1}. on`);
      expect(tried.flatMap(({ wrong }) => wrong)).toEqual([]);
      expect(tried.length).toBeGreaterThanOrEqual(16 + Math.floor(Object.keys(REQUESTS).length / STEP));
      expect(points).toBeGreaterThan(60);
    } finally {
      rmSync(folder, { recursive: true, force: true });
      rmSync(script, { force: true });
    }
  },
  MOST_MS,
);

test('each operation of the API that has an end is among them', () => {
  const endless = ['events', 'liveLines'];
  expect(Object.keys(REQUESTS).concat(endless).sort()).toEqual(Object.keys(OPERATIONS).sort());
});
