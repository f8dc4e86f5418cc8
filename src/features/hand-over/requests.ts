import type { ActionResult } from '@/features/common/action-result';
import { sendJson } from '@/features/common/send-json';

/** Hands a file over although it misses its spec. Reviewers may, too: it is no server action, which are for engineers. */
export function acceptMiss(deliveryId: string, reason: string): Promise<ActionResult> {
  return sendJson('POST', `/api/deliveries/${deliveryId}/acceptance`, { reason });
}

/** Approves a verified file, as whoever has signed in. */
export function approveFile(deliveryId: string): Promise<ActionResult> {
  return sendJson('POST', `/api/deliveries/${deliveryId}/approval`);
}
