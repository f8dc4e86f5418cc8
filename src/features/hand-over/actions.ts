'use server';

import * as z from 'zod';
import { type SetLine, setLineSchema } from '@/core/delivery/line';
import { tagsSchema } from '@/core/delivery/tags';
import { isAppError } from '@/core/errors/app-error';
import type { ActionResult } from '@/features/common/action-result';
import { acceptDelivery, discardDelivery } from '@/server/deliveries/decide';
import {
  addLine,
  addMissingEdges,
  addSet,
  changeLine,
  clearEdges,
  removeLine,
  removeSet,
  restoreLine,
  saveSet,
  setNameTemplate,
  setTags,
} from '@/server/deliveries/lines';
import { solveAgain, writeLine } from '@/server/deliveries/write-row';
import { answer } from '@/server/http/action';
import { sendDelivery } from '@/server/receivers/sendings';
import { getServer } from '@/server/server';

const id = z.string().min(1).max(64);
const ids = z.array(id).min(1).max(500);
export type WhatToDeliver = SetLine;

/** Puts a row on the sheet for each of some programmes; nothing is written. */
export async function addRows(programmeIds: readonly string[], wanted: WhatToDeliver): Promise<ActionResult<string[]>> {
  return answer(() => {
    const parsed = setLineSchema.parse(wanted);
    return ids.parse(programmeIds).map((programmeId) => addLine(getServer(), { programmeId, ...parsed }).id);
  });
}

export async function changeRow(lineId: string, wanted: WhatToDeliver): Promise<ActionResult> {
  return answer(() => {
    changeLine(getServer(), id.parse(lineId), setLineSchema.parse(wanted));
    return undefined;
  });
}

/** Adds room tone to rows where their specs ask for more than there is; answers with how many rows that were. */
export async function addEdges(lineIds: readonly string[]): Promise<ActionResult<number>> {
  return answer(async () => {
    let added = 0;
    for (const lineId of ids.parse(lineIds)) if (await addMissingEdges(getServer(), lineId)) added++;
    return added;
  });
}

/** Puts a row's edges back to those of its programme. */
export async function resetEdges(lineId: string): Promise<ActionResult> {
  return answer(() => {
    clearEdges(getServer(), id.parse(lineId));
    return undefined;
  });
}

/** Puts rows back on the sheet that were taken off. */
export async function restoreRow(lineId: string): Promise<ActionResult> {
  return answer(() => {
    restoreLine(getServer(), id.parse(lineId));
    return undefined;
  });
}

export async function removeRow(lineId: string): Promise<ActionResult> {
  return answer(() => {
    removeLine(getServer(), id.parse(lineId));
    return undefined;
  });
}

/** Has rows written; what keeps one from it is told of that one, and the others go on. */
export async function writeRows(
  lineIds: readonly string[],
): Promise<ActionResult<{ lineId: string; happened: string; todo: string }[]>> {
  return answer(async () => {
    const failed: { lineId: string; happened: string; todo: string }[] = [];
    for (const lineId of ids.parse(lineIds)) {
      try {
        await writeLine(getServer(), lineId);
      } catch (error) {
        if (!isAppError(error)) throw error;
        failed.push({ lineId, happened: error.text.happened, todo: error.text.todo });
      }
    }
    return failed;
  });
}

/** Hands a file over although it misses its spec. */
export async function acceptMiss(deliveryId: string, reason: string): Promise<ActionResult> {
  return answer(() => {
    const written = z.string().trim().min(3, 'A reason has at least three letters').max(2000).parse(reason);
    acceptDelivery(getServer(), id.parse(deliveryId), written);
    return undefined;
  });
}

export async function discardMiss(deliveryId: string): Promise<ActionResult> {
  return answer(async () => {
    await discardDelivery(getServer(), id.parse(deliveryId));
    return undefined;
  });
}

/** Throws a file away that misses, and writes another from what was learnt of it. */
export async function solveMiss(deliveryId: string): Promise<ActionResult<string>> {
  return answer(() => solveAgain(getServer(), id.parse(deliveryId)));
}

/** Sends a written delivery to its receiver: again after a refusal, or where its row has been given one since. */
export async function sendFile(deliveryId: string, receiverId: string): Promise<ActionResult<string>> {
  return answer(() => sendDelivery(getServer(), id.parse(deliveryId), id.parse(receiverId)));
}

export async function keepSet(name: string, programmeId: string): Promise<ActionResult> {
  return answer(() => {
    saveSet(getServer(), z.string().trim().min(1, 'A set has a name').max(80).parse(name), id.parse(programmeId));
    return undefined;
  });
}

export async function forgetSet(setId: string): Promise<ActionResult> {
  return answer(() => {
    removeSet(getServer(), id.parse(setId));
    return undefined;
  });
}

/** Adds the rows of a set to each of some programmes; answers with how many there are more. */
export async function addSetRows(setId: string, programmeIds: readonly string[]): Promise<ActionResult<number>> {
  return answer(() => addSet(getServer(), id.parse(setId), ids.parse(programmeIds)));
}

/** Keeps what a programme's files say of themselves. */
export async function keepTags(programmeId: string, tags: Record<string, string>): Promise<ActionResult> {
  return answer(() => {
    setTags(getServer(), id.parse(programmeId), tagsSchema.parse(tags));
    return undefined;
  });
}

export async function renameDeliveries(jobId: string, template: string | null): Promise<ActionResult> {
  return answer(() => {
    const text = z.string().trim().min(1).max(200).nullable().parse(template);
    setNameTemplate(getServer(), id.parse(jobId), text);
    return undefined;
  });
}
