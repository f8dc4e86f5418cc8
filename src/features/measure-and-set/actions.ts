'use server';

import * as z from 'zod';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { LAYOUT_IDS } from '@/core/loudness/channel-layout';
import type { ActionResult } from '@/features/common/action-result';
import type { Metadata } from '@/formats/metadata';
import { deliverAsSet } from '@/server/deliveries/deliver-as-set';
import { addRow } from '@/server/deliveries/rows';
import { answer } from '@/server/http/action';
import { addMarker, addSpans, type ReadSpans, removeMarker, renameMarker } from '@/server/jobs/markers';
import { chooseLayout } from '@/server/measure/measure-source';
import { getServer } from '@/server/server';
import { metadataOfProgramme } from '@/server/take-in/time-code';

const sha256Input = z.string().regex(/^[0-9a-f]{64}$/);
const idInput = z.string().min(1).max(64);
const nameInput = z.string().trim().max(120);
const frame = z.int().nonnegative();
const layoutInput = z.object({ sha256: sha256Input, layoutId: z.enum(LAYOUT_IDS).nullable() });
const markerInput = z.object({ startFrame: frame, endFrame: frame.nullable(), name: nameInput });
const spanInput = z
  .object({ startFrame: frame, endFrame: frame })
  .refine(({ startFrame, endFrame }) => endFrame > startFrame);

/** Sets a source's channel layout by hand, or back to the file's own; it is then measured anew. */
export async function setLayout(sha256: string, layoutId: string | null): Promise<ActionResult<null>> {
  return answer(() => {
    const choice = layoutInput.parse({ sha256, layoutId });
    chooseLayout(getServer(), choice.sha256, choice.layoutId);
    return null;
  });
}

/** Keeps a place of a programme, or a span, with a name. */
export async function keepMarker(
  programmeId: string,
  marker: { startFrame: number; endFrame: number | null; name: string },
): Promise<ActionResult<string>> {
  return answer(() => addMarker(getServer(), idInput.parse(programmeId), markerInput.parse(marker)));
}

/** Makes markers of the spans that an edit list or a table names. */
export async function markersFromList(programmeId: string, text: string): Promise<ActionResult<ReadSpans>> {
  return answer(() => addSpans(getServer(), idInput.parse(programmeId), z.string().max(1_000_000).parse(text)));
}

export async function nameMarker(markerId: string, name: string): Promise<ActionResult<null>> {
  return answer(() => {
    renameMarker(getServer(), idInput.parse(markerId), nameInput.parse(name));
    return null;
  });
}

export async function dropMarker(markerId: string): Promise<ActionResult<null>> {
  return answer(() => {
    removeMarker(getServer(), idInput.parse(markerId));
    return null;
  });
}

/** The markers and the time code that a file came with. */
export async function sourceTimes(programmeId: string): Promise<ActionResult<Pick<Metadata, 'markers' | 'timeCode'>>> {
  return answer(async () => {
    const { markers, timeCode } = await metadataOfProgramme(getServer(), idInput.parse(programmeId));
    return { markers, timeCode };
  });
}

/** Puts a span of a programme on the sheet, with the current settings; nothing is written. Answers with its row. */
export async function deliverSpan(
  programmeId: string,
  specId: string,
  span: { startFrame: number; endFrame: number },
): Promise<ActionResult<string>> {
  return answer(() => {
    const { id } = addRow(getServer(), {
      programmeId: idInput.parse(programmeId),
      specId: z.string().max(64).parse(specId),
      format: deliveryFormatSchema.parse({ kind: 'wav' }),
      levelMode: { kind: 'as-set' },
      trim: spanInput.parse(span),
    });
    return id;
  });
}

/** Has a programme written with its current settings, for a spec. Answers with its row of the sheet. */
export async function deliverNow(programmeId: string, specId: string): Promise<ActionResult<string>> {
  return answer(() => deliverAsSet(getServer(), idInput.parse(programmeId), z.string().max(64).parse(specId)));
}
