'use server';

import * as z from 'zod';
import { LAYOUT_IDS } from '@/core/loudness/channel-layout';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
import { chooseLayout } from '@/server/measure/measure-source';
import { getServer } from '@/server/server';

const layoutInput = z.object({ sha256: z.string().regex(/^[0-9a-f]{64}$/), layoutId: z.enum(LAYOUT_IDS).nullable() });

/** Sets a source's channel layout by hand, or back to the file's own; it is then measured anew. */
export async function setLayout(sha256: string, layoutId: string | null): Promise<ActionResult<null>> {
  return answer(() => {
    const choice = layoutInput.parse({ sha256, layoutId });
    chooseLayout(getServer(), choice.sha256, choice.layoutId);
    return null;
  });
}
