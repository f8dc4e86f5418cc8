'use server';

import * as z from 'zod';
import { roundGain, treatmentSchema } from '@/core/treatment/treatment';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
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
