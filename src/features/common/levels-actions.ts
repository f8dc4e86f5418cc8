'use server';

import * as z from 'zod';
import { roundGain } from '@/core/treatment/gain';
import { type Levels, levelsSchema } from '@/core/treatment/treatment';
import { answer } from '@/server/http/action';
import { forecastNewest } from '@/server/measure/limiting';
import { getServer } from '@/server/server';
import { changeTreatment } from '@/server/treatments/treatments';
import type { ActionResult } from './action-result';

const input = z.object({ programmeId: z.string().min(1).max(64), levels: levelsSchema });

/** Keeps a programme's gain and limiter, and answers with the number of the treatment version that holds them. */
export async function saveLevels(programmeId: string, levels: Levels): Promise<ActionResult<number>> {
  return answer(async () => {
    const { levels: chosen, programmeId: id } = input.parse({ programmeId, levels });
    const server = getServer();
    const version = changeTreatment(server, id, { ...chosen, gainDb: roundGain(chosen.gainDb) });
    if (chosen.limit) await forecastNewest(server, id);
    return version;
  });
}
