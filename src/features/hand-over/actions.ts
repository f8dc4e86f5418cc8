'use server';

import * as z from 'zod';
import { type SetRow, setRowSchema } from '@/core/delivery/row';
import { AppError } from '@/core/errors/app-error';
import { type Tags, tagsSchema } from '@/core/file-formats/tags';
import { someOf } from '@/core/schema/some-of';
import type { ActionResult } from '@/features/common/action-result';
import { orderCopyOut } from '@/server/deliveries/copy-out';
import { discardDeliveries, discardDelivery } from '@/server/deliveries/decide';
import * as rows from '@/server/deliveries/rows';
import {
  type SheetSettings,
  type SheetUndo,
  sheetSettings,
  sheetUndoSchema,
  undoSheet,
} from '@/server/deliveries/sheet-settings';
import { type DeliveryTarget, deliveryTargets } from '@/server/deliveries/targets';
import * as templates from '@/server/deliveries/templates';
import * as writing from '@/server/deliveries/write-row';
import { answer } from '@/server/http/action';
import { filmLineUp } from '@/server/line-ups/films';
import { sendDelivery } from '@/server/receivers/transfers';
import { getServer } from '@/server/server';
import { nameTemplateSchema, templateNameSchema } from './inputs';
import { templatesMenuMessages as messages } from './messages';

const id = z.string().min(1).max(64);
const ids = z.array(id).min(1).max(10_000);
const someTags = someOf(tagsSchema);
export type WhatToDeliver = SetRow;

/** Which programmes: one of a job, or with null all of it that are measured. */
export interface Target {
  jobId: string;
  programmeId: string | null;
}
const target = z.object({ jobId: id, programmeId: id.nullable() });

/** What decides which formats deliveries can have. */
export async function targetsOf(asked: Target): Promise<ActionResult<DeliveryTarget[]>> {
  return answer(() => {
    const { jobId, programmeId } = target.parse(asked);
    return deliveryTargets(getServer(), jobId, programmeId);
  });
}

/** The line-up of the film that a programme is sound of. */
export async function openFilm(programmeId: string): Promise<ActionResult<string>> {
  return answer(() => filmLineUp(getServer(), id.parse(programmeId)));
}

/** What is set on a sheet, to be taken back to. */
export async function settingsOfSheet(asked: Target): Promise<ActionResult<SheetSettings>> {
  return answer(() => {
    const { jobId, programmeId } = target.parse(asked);
    return sheetSettings(getServer(), jobId, programmeId);
  });
}

/** Takes a change of a sheet back. */
export async function takeBack(jobId: string, undo: SheetUndo): Promise<ActionResult> {
  return answer(() => {
    undoSheet(getServer(), id.parse(jobId), sheetUndoSchema.parse(undo));
    return undefined;
  });
}

/** Puts a row on the sheet for each of the programmes; nothing is written. Answers with how many there are more. */
export async function addRows(asked: Target, wanted: WhatToDeliver): Promise<ActionResult<number>> {
  return answer(() => {
    const parsed = setRowSchema.parse(wanted);
    const { jobId, programmeId } = target.parse(asked);
    const targets = deliveryTargets(getServer(), jobId, programmeId);
    rows.addRows(
      getServer(),
      targets.map((own) => own.id),
      parsed,
    );
    return targets.length;
  });
}

/** What another window has set since it was seen is not overwritten; nor is it in what follows. */
export async function changeRow(rowId: string, wanted: WhatToDeliver, seen: WhatToDeliver): Promise<ActionResult> {
  return answer(() => {
    rows.changeRow(getServer(), id.parse(rowId), setRowSchema.parse(wanted), setRowSchema.parse(seen));
    return undefined;
  });
}

/** Adds room tone to rows where their specs ask for more than there is; answers with how many rows that were. */
export async function addEdges(rowIds: readonly string[]): Promise<ActionResult<number>> {
  return answer(() => rows.addMissingEdgesOf(getServer(), ids.parse(rowIds)));
}

/** Puts a row's edges back to those of its programme. */
export async function resetEdges(rowId: string): Promise<ActionResult> {
  return answer(() => {
    rows.clearEdges(getServer(), id.parse(rowId));
    return undefined;
  });
}

export async function removeRow(rowId: string): Promise<ActionResult> {
  return answer(() => {
    rows.removeRow(getServer(), id.parse(rowId));
    return undefined;
  });
}

/** Has rows written; what keeps one from it is told of that one, and the others go on. */
export async function writeRows(rowIds: readonly string[]): Promise<ActionResult<writing.RowFailure[]>> {
  return answer(() => writing.writeRows(getServer(), ids.parse(rowIds)));
}

export async function discardMiss(deliveryId: string): Promise<ActionResult> {
  return answer(async () => {
    await discardDelivery(getServer(), id.parse(deliveryId));
    return undefined;
  });
}

/** Throws a file away that misses, and writes another from what was learnt of it. */
export async function solveMiss(deliveryId: string): Promise<ActionResult<string>> {
  return answer(() => writing.solveAgain(getServer(), id.parse(deliveryId)));
}

/** Discards many files that miss; what is none any more stays what it is. */
export async function discardMisses(deliveryIds: readonly string[]): Promise<ActionResult> {
  return answer(async () => {
    await discardDeliveries(getServer(), ids.parse(deliveryIds));
    return undefined;
  });
}

/** Sends a written delivery to its receiver: again after a refusal, or where its row has been given one since. */
export async function sendFile(deliveryId: string, receiverId: string): Promise<ActionResult<string>> {
  return answer(() => sendDelivery(getServer(), id.parse(deliveryId), id.parse(receiverId)));
}

/** Has everything that can be handed over copied into the output folder. */
export async function copyOut(jobId: string): Promise<ActionResult<string>> {
  return answer(() => orderCopyOut(getServer(), id.parse(jobId)));
}

/** Saves the rows of a programme as a template, with its treatment and the names of its job where that is wanted. */
export async function saveRowsAsTemplate(
  name: string,
  programmeId: string,
  more: { withTreatment: boolean; withNames: boolean },
): Promise<ActionResult<string>> {
  return answer(() => {
    const wanted = z.object({ withTreatment: z.boolean(), withNames: z.boolean() }).parse(more);
    return templates.saveRowsAsTemplate(
      getServer(),
      templateNameSchema.parse({ name }).name,
      id.parse(programmeId),
      wanted,
    );
  });
}

/** Brings a template in that was saved as a file. */
export async function importTemplate(text: string): Promise<ActionResult<string>> {
  return answer(() => {
    let json: unknown;
    try {
      json = JSON.parse(z.string().max(1e6).parse(text));
    } catch (error) {
      throw new AppError('bad-request', { reason: messages.notRead }, { cause: error });
    }
    return templates.importTemplate(getServer(), json);
  });
}

export async function forgetTemplate(templateId: string): Promise<ActionResult> {
  return answer(() => {
    templates.removeTemplate(getServer(), id.parse(templateId));
    return undefined;
  });
}

/** Applies a template to some programmes; answers with how many rows there are more. */
export async function applyTemplate(templateId: string, asked: Target): Promise<ActionResult<number>> {
  return answer(() => {
    const { jobId, programmeId } = target.parse(asked);
    const programmeIds = deliveryTargets(getServer(), jobId, programmeId).map((own) => own.id);
    return templates.applyTemplate(getServer(), id.parse(templateId), programmeIds);
  });
}

/** Saves a programme's tags. */
/** What is left out stays. */
export async function keepTags(programmeId: string, change: Partial<Tags>, seen: Partial<Tags>): Promise<ActionResult> {
  return answer(() => {
    rows.changeTags(getServer(), id.parse(programmeId), someTags.parse(change), someTags.parse(seen));
    return undefined;
  });
}

export async function renameDeliveries(jobId: string, template: string | null, seen: string): Promise<ActionResult> {
  return answer(() => {
    const text = template === null ? null : nameTemplateSchema.parse({ template }).template;
    rows.setNameTemplate(getServer(), id.parse(jobId), text, z.string().parse(seen));
    return undefined;
  });
}
