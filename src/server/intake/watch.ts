import { existsSync } from 'node:fs';
import { readdir, readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { eq } from 'drizzle-orm';
import { manifestSchema, transferKeySchema } from '@/core/receiver/manifest';
import type { ServerContext } from '../context';
import { receivers } from '../db/schema';
import { dropFolder, MANIFEST_NAME } from '../receivers/transports/drop-folder';
import { answerOf, receive } from './intake';
import { breaksOff, intakeOf, isSimulated, mount } from './intakes';

const LOOK_EVERY_MS = 1000;

/** Looks into the drop folders of the simulated intakes from time to time, as the program of their owner would. */
export function watchDropFolders(server: ServerContext): { close(): void } {
  const ids = server.db
    .select({ id: receivers.id })
    .from(receivers)
    .where(eq(receivers.kind, dropFolder.kind))
    .all()
    .map(({ id }) => id)
    .filter(isSimulated);
  for (const id of ids) mount(server, id, intakeOf(server, id).conduct.dropsLeft === 0);
  let isLooking = false;
  const look = async () => {
    if (isLooking) return;
    isLooking = true;
    try {
      for (const id of ids) await lookInto(server, id);
    } finally {
      isLooking = false;
    }
  };
  const timer = setInterval(() => void look(), LOOK_EVERY_MS);
  timer.unref();
  return { close: () => clearInterval(timer) };
}

/** A folder that is away comes back once it has been missed often enough. */
async function lookInto(server: ServerContext, intakeId: string): Promise<void> {
  if (intakeOf(server, intakeId).conduct.dropsLeft !== 0) {
    breaksOff(server, intakeId);
    mount(server, intakeId, intakeOf(server, intakeId).conduct.dropsLeft === 0);
    return;
  }
  const folder = server.folder.intake(intakeId);
  for (const key of await readdir(folder).catch(() => [])) {
    const path = join(folder, key, MANIFEST_NAME);
    if (!transferKeySchema.safeParse(key).success || answerOf(server, intakeId, key) || !existsSync(path)) continue;
    const text = await readFile(path, 'utf8').catch(() => undefined);
    const manifest = manifestSchema.safeParse(text === undefined ? undefined : parse(text));
    // What is not a manifest of this folder is somebody else's file, and left alone.
    if (manifest.data?.key === key) receive(server, intakeId, manifest.data);
  }
}

function parse(text: string): unknown {
  try {
    return JSON.parse(text);
  } catch {
    return undefined;
  }
}
