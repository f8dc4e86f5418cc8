'use server';

import * as z from 'zod';
import type { ActionResult } from '@/features/common/action-result';
import { STORE_KINDS, type StoreKind } from '@/server/housekeeping/stores';
import { answer } from '@/server/http/action';
import { getServer } from '@/server/server';

/** Frees what can go of one part of the data folder; answers how many bytes that were. */
export async function freeStore(kind: StoreKind): Promise<ActionResult<number>> {
  return answer(() => getServer().house.free([z.enum(STORE_KINDS).parse(kind)]));
}
