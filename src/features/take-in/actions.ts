'use server';

import * as z from 'zod';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
import { chooseTrack } from '@/server/measure/measure-source';
import { getServer } from '@/server/server';

const trackInput = z.object({ sha256: z.string().regex(/^[0-9a-f]{64}$/), track: z.int().positive().max(1000) });

/** Takes another sound track of a source's file, counted from 1, and has it measured. */
export async function setTrack(sha256: string, track: number): Promise<ActionResult<null>> {
  return answer(async () => {
    const choice = trackInput.parse({ sha256, track });
    await chooseTrack(getServer(), choice.sha256, choice.track);
    return null;
  });
}
