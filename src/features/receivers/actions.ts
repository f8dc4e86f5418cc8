'use server';

import * as z from 'zod';
import { type NewReceiver, newReceiverFields } from '@/core/receiver/receiver';
import type { ActionResult } from '@/features/common/action-result';
import { answer } from '@/server/http/action';
import { setConduct } from '@/server/intake/intakes';
import { addReceiver, changeReceiver, removeReceiver } from '@/server/receivers/receivers';
import { getServer } from '@/server/server';

const id = z.string().min(1).max(64);

/** Adds a receiver of one's own; answers with its id. */
export async function newReceiver(receiver: NewReceiver): Promise<ActionResult<string>> {
  return answer(() => addReceiver(getServer(), receiver).id);
}

/** Changes one; an empty secret leaves the one that it has. What another window has set since it was seen is not overwritten. */
export async function keepReceiver(
  receiverId: string,
  receiver: NewReceiver,
  seen: Omit<NewReceiver, 'secret'>,
): Promise<ActionResult<string>> {
  return answer(() => {
    changeReceiver(getServer(), id.parse(receiverId), receiver, newReceiverFields.omit({ secret: true }).parse(seen));
    return receiverId;
  });
}

export async function forgetReceiver(receiverId: string): Promise<ActionResult> {
  return answer(() => {
    removeReceiver(getServer(), id.parse(receiverId));
    return undefined;
  });
}

/** Says how a simulated intake behaves from here on. */
export async function conductIntake(
  intakeId: string,
  conduct: { delaySeconds: number; refusesAll: boolean; dropsLeft: number },
): Promise<ActionResult> {
  return answer(() => {
    setConduct(getServer(), id.parse(intakeId), conduct);
    return undefined;
  });
}
