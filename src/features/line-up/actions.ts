'use server';

import * as z from 'zod';
import { BALANCES, type Balance, lineUpChange, lineUpFields } from '@/core/lineup/line-up';
import { gainDbSchema } from '@/core/treatment/steps/gain';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
import { type BalancePlan, setBalance } from '@/server/line-ups/balance';
import * as lineUps from '@/server/line-ups/line-ups';
import { getServer } from '@/server/server';
import { changeTreatment } from '@/server/treatments/treatments';

const id = z.string().min(1).max(64);
const gains = z.array(z.object({ programmeId: id, gainDb: gainDbSchema })).max(2000);

/** Answers with its id. */
export async function makeLineUp(jobId: string, fields: z.input<typeof lineUpFields>): Promise<ActionResult<string>> {
  return answer(() => lineUps.createLineUp(getServer(), id.parse(jobId), lineUpFields.parse(fields)));
}

export async function changeLineUp(lineUpId: string, change: z.input<typeof lineUpChange>): Promise<ActionResult> {
  return answer(() => {
    lineUps.changeLineUp(getServer(), id.parse(lineUpId), lineUpChange.parse(change));
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
