import { createWriteStream, existsSync } from 'node:fs';
import { mkdir, rename, stat } from 'node:fs/promises';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { and, eq } from 'drizzle-orm';
import { AppError, isAppError } from '@/core/errors/app-error';
import { refusals, refusalsAtSight } from '@/core/receiver/acceptance';
import { type Manifest, manifestSchema, type ReceiverAnswer } from '@/core/receiver/manifest';
import { factsOfFile } from '@/core/spec/facts';
import { hashFile } from '@/workers/node/hash-file';
import { flush } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import { intakeItems } from '../db/schema';
import { readBack } from '../deliveries/read-back';
import { newId } from '../ids';
import { ANSWER_NAME, writeWhole } from '../receivers/transports/drop-folder';
import { specNamed } from '../specs/specs';
import { Later, type TaskContext } from '../tasks/runner';
import { intakeOf, isFolder, type SimulatedIntake } from './intakes';
import { intakeMessages as messages } from './messages';

/** An intake that could not fetch a file, or not leave its answer, tries once more after so long, and for so long. */
const AGAIN_AFTER_MS = 1000;
const GIVEN_UP_AFTER_MS = 600_000;

/**
 * Takes the word of a sender that a delivery is there, or can be fetched. The same key twice is the same delivery: it is looked
 * at once, and answered the same.
 */
export function receive(server: ServerContext, intakeId: string, input: unknown): ReceiverAnswer {
  const manifest = manifestSchema.parse(input);
  const { conduct } = intakeOf(server, intakeId);
  const { db, queue, runner, clock } = server;
  const answer = db.transaction(
    (tx) => {
      const there = itemOf(server, intakeId, manifest.key);
      if (there) return there;
      const now = clock.now();
      const item = {
        id: newId(),
        intakeId,
        key: manifest.key,
        state: 'received',
        reasons: [],
        receivedAtMs: now,
      } as const;
      tx.insert(intakeItems)
        .values({ ...item, reasons: [], manifest })
        .run();
      queue.enqueue('check', item.id, now + 1000 * conduct.delaySeconds);
      return { state: item.state, reasons: [] };
    },
    { behavior: 'immediate' },
  );
  runner.wake();
  return { state: answer.state, reasons: answer.reasons };
}

/** What an intake says of a delivery; undefined where it has not been told of it. */
export function answerOf(server: ServerContext, intakeId: string, key: string): ReceiverAnswer | undefined {
  intakeOf(server, intakeId);
  const item = itemOf(server, intakeId, key);
  return item && { state: item.state, reasons: item.reasons };
}

function itemOf({ db }: ServerContext, intakeId: string, key: string) {
  return db
    .select()
    .from(intakeItems)
    .where(and(eq(intakeItems.intakeId, intakeId), eq(intakeItems.key, key)))
    .get();
}

/** Looks at what was sent, measures it with the same meter as everything else, and answers. */
export async function checkItem(server: ServerContext, itemId: string, context: TaskContext): Promise<void> {
  const { db, clock } = server;
  const item = db.select().from(intakeItems).where(eq(intakeItems.id, itemId)).get();
  if (!item) throw new AppError('not-found', { what: 'delivery' });
  if (item.state !== 'received') return;
  const intake = intakeOf(server, item.intakeId);
  const isLate = clock.now() - item.receivedAtMs > GIVEN_UP_AFTER_MS;
  const reasons = await reasonsAgainst(server, intake, item.manifest, context).catch((error) => {
    if (error instanceof Later && isLate) return [messages.notFetched];
    throw error;
  });
  const state = reasons.length === 0 ? 'accepted' : 'refused';
  if (isFolder(server, intake.id)) {
    const path = join(server.folder.intake(intake.id, item.key), ANSWER_NAME);
    // Where the folder is away for now, the answer is written once it is back.
    await writeWhole(path, JSON.stringify({ state, reasons })).catch(() => {
      throw new Later(AGAIN_AFTER_MS);
    });
  }
  db.update(intakeItems).set({ state, reasons, answeredAtMs: clock.now() }).where(eq(intakeItems.id, itemId)).run();
}

async function reasonsAgainst(
  server: ServerContext,
  { id, conduct, rules }: SimulatedIntake,
  { key, files }: Manifest,
  context: TaskContext,
): Promise<string[]> {
  if (conduct.refusesAll) return [messages.acceptsNothing];
  const atSight = refusalsAtSight(rules, files);
  if (atSight.length > 0) return atSight;
  const folder = server.folder.intake(id, key);
  const paths: string[] = [];
  for (const { fileName, sizeBytes, sha256, link } of files) {
    const path = join(folder, fileName);
    if (link !== null && !existsSync(path)) {
      if (!isOfThisMachine(link)) return [messages.isElsewhere(fileName)];
      await fetchInto(folder, path, link, context.signal);
    }
    const size = (await stat(path).catch(() => undefined))?.size;
    if (size === undefined) return [messages.isNotThere(fileName)];
    if (size !== sizeBytes) return [messages.otherSize(fileName, size, sizeBytes)];
    if ((await hashFile(path)) !== sha256) return [messages.otherFile(fileName)];
    paths.push(path);
  }
  const fileName = files[0]?.fileName ?? '';
  try {
    const report = await readBack(server, paths, { fileName, sha256: '', layoutId: null }, context);
    return refusals(rules, specNamed(server, rules.specId), { files, facts: factsOfFile(report) });
  } catch (error) {
    if (!isAppError(error) || context.signal.aborted) throw error;
    return [error.text.happened.replace(/[.]$/, '')];
  }
}

/** A simulated intake is not to be led anywhere else. */
function isOfThisMachine(link: string): boolean {
  return ['127.0.0.1', 'localhost', '[::1]'].includes(new URL(link).hostname);
}

/** Fetches a file from whoever offered it. */
async function fetchInto(folder: string, path: string, link: string, signal: AbortSignal): Promise<void> {
  await mkdir(folder, { recursive: true });
  const coming = `${path}.coming`;
  try {
    const response = await fetch(link, { signal, redirect: 'error' });
    if (!response.ok || !response.body) throw new Error(`it was answered ${response.status}`);
    await pipeline(Readable.fromWeb(response.body as never), createWriteStream(coming), { signal });
  } catch (error) {
    if (signal.aborted) throw new AppError('cancelled', {}, { cause: error });
    throw new Later(AGAIN_AFTER_MS);
  }
  await flush(coming);
  await rename(coming, path);
}
