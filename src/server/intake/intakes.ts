import { existsSync, mkdirSync, renameSync } from 'node:fs';
import { eq } from 'drizzle-orm';
import * as z from 'zod';
import { AppError } from '@/core/errors/app-error';
import { type AcceptanceRules, describeRules } from '@/core/receiver/acceptance';
import type { ServerContext } from '../context';
import { simulatedIntakes } from '../db/schema';
import type { IntakeConduct } from '../db/stored/small';
import { receiverOf } from '../receivers/receivers';
import { transportOf } from '../receivers/transports';
import { specNamed } from '../specs/specs';

const PLAIN_NAME = { pattern: /^[A-Za-z0-9._-]{1,64}$/, words: 'letters, digits, - _ . only, 64 characters at most' };
const ANY_NAME = { pattern: /^.{1,200}$/u, words: 'any name' };

/** The simulated intakes: what each takes. By the id of the receiver that leads there. */
const RULES: Readonly<Record<string, AcceptanceRules>> = {
  'network-desk': { specId: 'ebu-r128', files: ['wav', 'bw64'], name: PLAIN_NAME, mostBytes: 8e9 },
  'feed-folder': { specId: 'podcast-stereo', files: ['mp3', 'm4a'], leastKbps: 96, name: ANY_NAME, mostBytes: 5e8 },
  'shop-store': { specId: 'audiobook-retail', files: ['mp3'], leastKbps: 192, name: PLAIN_NAME, mostBytes: 2e9 },
};

const conductSchema = z.object({
  delaySeconds: z.number().min(0).max(600),
  refusesAll: z.boolean(),
  dropsLeft: z.int().min(-1).max(100),
});

export interface SimulatedIntake {
  id: string;
  secret: string;
  conduct: IntakeConduct;
  rules: AcceptanceRules;
}

/** Throws `not-found`. */
export function intakeOf({ db, secrets }: Pick<ServerContext, 'db' | 'secrets'>, intakeId: string): SimulatedIntake {
  const row = db.select().from(simulatedIntakes).where(eq(simulatedIntakes.id, intakeId)).get();
  const rules = RULES[intakeId];
  if (!row || !rules) throw new AppError('not-found', { what: 'simulated intake' });
  return { ...row, secret: (row.secret && secrets.open(row.secret)) ?? '', rules };
}

/** Whether a simulated intake stands at a receiver's other end. */
export function isSimulated(receiverId: string): boolean {
  return RULES[receiverId] !== undefined;
}

/** An intake as a page shows it. */
export interface IntakeView {
  conduct: IntakeConduct;
  rules: string[];
}

/** Undefined of a receiver that is somebody else's. */
export function viewIntake(server: Pick<ServerContext, 'db' | 'secrets'>, receiverId: string): IntakeView | undefined {
  if (!isSimulated(receiverId)) return undefined;
  const { conduct, rules } = intakeOf(server, receiverId);
  return { conduct, rules: describeRules(rules, specNamed(server, rules.specId)) };
}

/** Says how an intake behaves from here on. */
export function setConduct(server: ServerContext, intakeId: string, input: unknown): void {
  const conduct = conductSchema.parse(input);
  intakeOf(server, intakeId);
  server.db.update(simulatedIntakes).set({ conduct }).where(eq(simulatedIntakes.id, intakeId)).run();
  if (isFolder(server, intakeId)) mount(server, intakeId, conduct.dropsLeft === 0);
}

/** Whether the connection breaks off this time. */
export function breaksOff(server: ServerContext, intakeId: string): boolean {
  return server.db.transaction(
    (tx) => {
      const { conduct } = intakeOf(server, intakeId);
      if (conduct.dropsLeft > 0) {
        const fewer = { ...conduct, dropsLeft: conduct.dropsLeft - 1 };
        tx.update(simulatedIntakes).set({ conduct: fewer }).where(eq(simulatedIntakes.id, intakeId)).run();
      }
      return conduct.dropsLeft !== 0;
    },
    { behavior: 'immediate' },
  );
}

export function isFolder(server: Pick<ServerContext, 'db'>, intakeId: string): boolean {
  return transportOf(receiverOf(server, intakeId).kind).place === 'folder';
}

/** Has a drop folder there, or away as one on a disk that is not connected. */
export function mount({ folder }: Pick<ServerContext, 'folder'>, intakeId: string, isThere: boolean): void {
  const path = folder.intake(intakeId);
  const away = `${path}.away`;
  if (isThere && existsSync(away)) renameSync(away, path);
  else if (isThere) mkdirSync(path, { recursive: true });
  else if (existsSync(path)) renameSync(path, away);
}
