'use server';

import * as z from 'zod';
import { tagsSchema } from '@/core/file-formats/tags';
import { BALANCES, type Balance, lineUpChange, lineUpFields } from '@/core/lineup/line-up';
import { gainDbSchema } from '@/core/treatment/steps/gain';
import type { ActionResult } from '@/features/common/action-result';
import { type AssemblyWish, assemblyWish, orderAssembly } from '@/server/assemblies/assemblies';
import * as assembled from '@/server/assemblies/download';
import { answer } from '@/server/http/action';
import { type BalancePlan, setBalance } from '@/server/line-ups/balance';
import { type NumberedIsrc, numberIsrcs, setIsrcs } from '@/server/line-ups/isrcs';
import * as lineUps from '@/server/line-ups/line-ups';
import { getServer } from '@/server/server';
import { orderNullTest } from '@/server/stems/null-test';
import { changeTreatment } from '@/server/treatments/treatments';

const id = z.string().min(1).max(64);
const gains = z.array(z.object({ programmeId: id, gainDb: gainDbSchema })).max(2000);

/** Answers with its id. */
export async function makeLineUp(jobId: string, fields: z.input<typeof lineUpFields>): Promise<ActionResult<string>> {
  return answer(() => lineUps.createLineUp(getServer(), id.parse(jobId), lineUpFields.parse(fields)));
}

/** What another window has set since it was seen is not overwritten. */
export async function changeLineUp(
  lineUpId: string,
  change: z.input<typeof lineUpChange>,
  seen: z.input<typeof lineUpChange>,
): Promise<ActionResult> {
  return answer(() => {
    lineUps.changeLineUp(getServer(), id.parse(lineUpId), lineUpChange.parse(change), lineUpChange.parse(seen));
    return undefined;
  });
}

export async function removeLineUp(lineUpId: string, isRemoved: boolean): Promise<ActionResult> {
  return answer(() => {
    lineUps.removeLineUp(getServer(), id.parse(lineUpId), z.boolean().parse(isRemoved));
    return undefined;
  });
}

/** Sets the gains of all its programmes for a spec; answers with what they were, and what stops them. */
export async function balanceLineUp(
  lineUpId: string,
  balance: Balance,
  specId: string,
): Promise<ActionResult<BalancePlan>> {
  return answer(() => setBalance(getServer(), id.parse(lineUpId), z.enum(BALANCES).parse(balance), id.parse(specId)));
}

/** Sets the gain of each of some programmes. */
export async function setGains(wanted: z.infer<typeof gains>): Promise<ActionResult> {
  return answer(() => {
    for (const { programmeId, gainDb } of gains.parse(wanted)) changeTreatment(getServer(), programmeId, { gainDb });
    return undefined;
  });
}

/** Has a line-up written as one; answers with the id of what is written. */
export async function writeRecord(lineUpId: string, wish: AssemblyWish): Promise<ActionResult<string>> {
  return answer(() => orderAssembly(getServer(), id.parse(lineUpId), assemblyWish.parse(wish)));
}

/** Has the stems of a line-up compared with their mix. */
export async function testStems(lineUpId: string): Promise<ActionResult<string>> {
  return answer(() => orderNullTest(getServer(), id.parse(lineUpId)));
}

export async function discardRecord(assemblyId: string): Promise<ActionResult> {
  return answer(async () => {
    await assembled.discardAssembly(getServer(), id.parse(assemblyId));
    return undefined;
  });
}

/** Numbers ISRCs on from a first; answers with what they were. */
export async function numberRecord(lineUpId: string, first: string): Promise<ActionResult<NumberedIsrc[]>> {
  return answer(() => numberIsrcs(getServer(), id.parse(lineUpId), z.string().max(40).parse(first)));
}

const isrcs = z.array(z.object({ programmeId: id, isrc: tagsSchema.shape.isrc })).max(2000);

/** Gives each of some programmes its ISRC, or takes it away. */
export async function giveIsrcs(wanted: z.infer<typeof isrcs>): Promise<ActionResult> {
  return answer(() => {
    setIsrcs(getServer(), isrcs.parse(wanted));
    return undefined;
  });
}
