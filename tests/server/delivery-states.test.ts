/**
 * Deliveries as the state machine that they are: whatever is asked of them, in whatever order, with the server closed and opened
 * between, and the process killed at any statement.
 */
import { spawnSync } from 'node:child_process';
import { existsSync, rmSync } from 'node:fs';
import { eq } from 'drizzle-orm';
import fc from 'fast-check';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { isAppError } from '@/core/errors/app-error';
import { deliveries, programmes } from '@/server/db/schema';
import { acceptDelivery, discardDelivery } from '@/server/deliveries/decide';
import { fileNamesOf } from '@/server/deliveries/delivery-record';
import { addRow } from '@/server/deliveries/rows';
import { solveAgain, writeRow } from '@/server/deliveries/write-row';
import { Server } from '@/server/server';
import { DataFolder } from '@/server/storage/data-folder';
import { steerTask } from '@/server/tasks/view';
import { bundled } from '../fixtures/bundled';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

type Delivery = typeof deliveries.$inferSelect;

/** Half a second, and so loud that what is written as it is set misses EBU R 128. */
const LOUD = wavOf(stereo(tone([{ seconds: 0.5, levelDbfs: -6 }], 48_000)));

async function withRow(): Promise<{ host: TestServer; rowId: string }> {
  const host = new TestServer();
  const { programmeId } = await host.measured(LOUD);
  const { id: rowId } = addRow(host.server, {
    programmeId,
    specId: 'ebu-r128',
    format: deliveryFormatSchema.parse({ kind: 'wav' }),
    levelMode: { kind: 'as-set' },
  });
  return { host, rowId };
}

const all = ({ server }: TestServer): Delivery[] => server.db.select().from(deliveries).all();

/** What holds whenever nothing is being done: each row stands where its file does. */
function expectWhole(host: TestServer): void {
  const rows = all(host);
  expect(rows.filter(({ state }) => state === 'open')).toEqual([]);
  const files = host.files().filter((name) => name.startsWith('deliveries/'));
  const wanted = rows.flatMap((row) =>
    row.state === 'written' ? fileNamesOf(row).map((name) => `deliveries/${row.jobId}/${name}`) : [],
  );
  expect(files).toEqual(wanted.sort());
  expect(new Set(rows.map(({ fileName }) => fileName)).size).toBe(rows.length);
  for (const { state, report, verdict, acceptedReason, discardedAtMs } of rows) {
    expect(state === 'written' || state === 'discarded').toBe(report !== null && verdict !== null);
    expect(state === 'discarded').toBe(discardedAtMs !== null);
    if (acceptedReason !== null) expect(state).toBe('written');
  }
}

/** What the machine says of the newest delivery of the row: its state, and whether it was accepted. */
interface Model {
  /** From the oldest on. */
  states: ('open' | 'written' | 'accepted' | 'ended' | 'discarded')[];
}

interface Real {
  host: TestServer;
  rowId: string;
}

/** An order that may be refused; whether it may is the model's to say. */
async function tried(work: () => unknown): Promise<boolean> {
  try {
    await work();
    return true;
  } catch (error) {
    if (isAppError(error, 'bad-request')) return false;
    throw error;
  }
}

class Command implements fc.AsyncCommand<Model, Real> {
  constructor(
    private readonly name: string,
    private readonly does: (model: Model, real: Real, newest: Delivery | undefined) => Promise<void>,
  ) {}

  check(): boolean {
    return true;
  }

  async run(model: Model, real: Real): Promise<void> {
    await this.does(model, real, all(real.host).at(-1));
    const states = all(real.host).map(({ state, acceptedReason }) => (acceptedReason === null ? state : 'accepted'));
    expect(states).toEqual(model.states);
    if (!model.states.includes('open')) expectWhole(real.host);
  }

  toString(): string {
    return this.name;
  }
}

const last = ({ states }: Model) => states.at(-1);
const become = ({ states }: Model, state: Model['states'][number]) => states.splice(-1, 1, state);

async function finish(model: Model, { host }: Real): Promise<void> {
  await host.server.runner.whenIdle();
  if (last(model) !== 'open') return;
  become(model, 'written');
  const rows = all(host);
  const at = rows.findIndex(({ id }) => id === rows.at(-1)?.replacesId);
  // What was accepted meanwhile stays beside what was to stand in its place.
  if (at >= 0 && model.states[at] === 'written') model.states[at] = 'discarded';
}

const COMMANDS: Readonly<Record<string, ConstructorParameters<typeof Command>[1]>> = {
  /** Nothing runs before it is waited for: the task waits in the queue of a runner that is stopped. */
  write: async (model, { host, rowId }) => {
    await writeRow(host.server, rowId);
    if (last(model) !== 'open') model.states.push('open');
  },
  'write twice at once': async (model, { host, rowId }) => {
    const ids = await Promise.all([writeRow(host.server, rowId), writeRow(host.server, rowId)]);
    expect(new Set(ids).size).toBe(1);
    if (last(model) !== 'open') model.states.push('open');
  },
  finish,
  cancel: async (model, { host }, newest) => {
    const task = newest && host.server.queue.latest('render', [newest.id]).get(newest.id);
    if (!task) return;
    steerTask(host.server, task.id, 'cancel');
    if (last(model) === 'open') become(model, 'ended');
  },
  retry: async (model, { host }, newest) => {
    const task = newest && host.server.queue.latest('render', [newest.id]).get(newest.id);
    if (!task || last(model) !== 'ended') return;
    steerTask(host.server, task.id, 'retry');
    become(model, 'open');
  },
  accept: async (model, { host }, newest) => {
    if (!newest) return;
    const isDone = await tried(() => acceptDelivery(host.server, newest.id, 'as it was agreed'));
    expect(isDone).toBe(misses(newest) && (last(model) === 'written' || last(model) === 'accepted'));
    if (isDone) become(model, 'accepted');
  },
  discard: async (model, { host }, newest) => {
    if (!newest) return;
    const isDone = await tried(() => discardDelivery(host.server, newest.id));
    expect(isDone).toBe(misses(newest) && (last(model) === 'written' || last(model) === 'accepted'));
    if (isDone) become(model, 'discarded');
  },
  'solve again': async (model, { host }, newest) => {
    if (!newest) return;
    const isDone = await tried(() => solveAgain(host.server, newest.id));
    expect(isDone).toBe(misses(newest) && (last(model) === 'written' || last(model) === 'accepted'));
    if (isDone) model.states.push('open');
  },
  'close and open again': async (model, real) => {
    await real.host.server.close();
    real.host.server = new Server(new DataFolder(real.host.root));
    // What waited is taken up by itself.
    await finish(model, real);
    hold(real.host);
  },
};

function misses({ verdict }: Delivery): boolean {
  return verdict !== null && !verdict.inside;
}

/** Has tasks wait until somebody waits for them. */
function hold({ server: { runner } }: TestServer): void {
  const { wake } = runner;
  const whenIdle = runner.whenIdle.bind(runner);
  runner.wake = () => undefined;
  runner.whenIdle = () => {
    runner.wake = wake;
    return whenIdle().finally(() => {
      runner.wake = () => undefined;
    });
  };
}

test('whatever is asked of a row, in whatever order, its deliveries stand where the machine says', async () => {
  const commands = Object.entries(COMMANDS).map(([name, does]) => fc.constant(new Command(name, does)));
  await fc.assert(
    fc.asyncProperty(fc.commands(commands, { maxCommands: 14 }), async (sequence) => {
      const { host, rowId } = await withRow();
      hold(host);
      try {
        await fc.asyncModelRun(() => ({ model: { states: [] }, real: { host, rowId } }), sequence);
        await host.server.runner.whenIdle();
        expectWhole(host);
      } finally {
        await host.remove();
      }
    }),
    { numRuns: 25 },
  );
}, 180_000);

describe('killed at its n-th statement', () => {
  let script: string;
  beforeAll(async () => {
    script = await bundled('killed-at');
  });
  afterAll(() => rmSync(script, { force: true }));

  /** @returns how many statements there were, where it came to its end */
  const run = (root: string, at: number, action: string, id: string): number => {
    const child = spawnSync(process.execPath, [script, root, String(at), action, id], { encoding: 'utf8' });
    if (child.signal !== 'SIGKILL' && child.status !== 0) throw new Error(child.stderr);
    return Number(child.stdout);
  };

  test.each(['write', 'accept', 'discard', 'solve-again'])(
    '%s is done whole or not at all',
    async (action) => {
      const prepared = async () => {
        const { host, rowId } = await withRow();
        if (action !== 'write') {
          await writeRow(host.server, rowId);
          await host.server.runner.whenIdle();
        }
        const id = action === 'write' ? rowId : (all(host)[0]?.id ?? '');
        await host.server.close();
        return { host, id };
      };
      const whole = await prepared();
      const statements = run(whole.host.root, 0, action, whole.id);
      rmSync(whole.host.root, { recursive: true, force: true });
      expect(statements).toBeGreaterThan(3);
      // Spread over all of them; each run of the tests looks at others.
      const moments = Math.min(7, statements);
      for (let i = 0; i < moments; i++) {
        const at = 1 + Math.floor(((i + Math.random()) * statements) / moments);
        const { host, id } = await prepared();
        run(host.root, at, action, id);
        host.server = new Server(new DataFolder(host.root));
        await host.server.runner.whenIdle();
        try {
          expectWhole(host);
          // Asked once more, it is what it would have been.
          if (action === 'write') await writeRow(host.server, id);
          await host.server.runner.whenIdle();
          expectWhole(host);
          const source = host.server.db.select().from(programmes).where(eq(programmes.jobId, host.jobId)).get();
          expect(existsSync(host.server.folder.source(source?.sourceSha256 ?? ''))).toBe(true);
        } catch (error) {
          throw new Error(`killed at statement ${at} of ${statements}`, { cause: error });
        } finally {
          await host.remove();
        }
      }
    },
    240_000,
  );
});
