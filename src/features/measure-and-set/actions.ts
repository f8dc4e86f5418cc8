'use server';

import * as z from 'zod';
import { LAYOUT_IDS } from '@/core/loudness/channel-layout';
import { roundGain } from '@/core/treatment/gain';
import { treatmentSchema } from '@/core/treatment/treatment';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
import { chooseLayout } from '@/server/measure/measure-source';
import { getServer } from '@/server/server';
import { saveTreatment } from '@/server/treatments/treatments';

const input = z.object({ programmeId: z.string().min(1).max(64), treatment: treatmentSchema });

/** Keeps a programme's gain, and answers with the number of the treatment version that holds it. */
export async function saveGain(programmeId: string, gainDb: number): Promise<ActionResult<number>> {
  return answer(() => {
    const { treatment, programmeId: id } = input.parse({ programmeId, treatment: { gainDb } });
    return saveTreatment(getServer(), id, { gainDb: roundGain(treatment.gainDb) });
  });
}

const layoutInput = z.object({ sha256: z.string().regex(/^[0-9a-f]{64}$/), layoutId: z.enum(LAYOUT_IDS).nullable() });

/** Sets a source's channel layout by hand, or back to the file's own; it is then measured anew. */
export async function setLayout(sha256: string, layoutId: string | null): Promise<ActionResult<null>> {
  return answer(() => {
    const choice = layoutInput.parse({ sha256, layoutId });
    chooseLayout(getServer(), choice.sha256, choice.layoutId);
    return null;
  });
}
