import type { ErrorRecord } from '@/core/errors/app-error';
import type { ActionResult } from './action-result';
import { sayUnreached } from './server-unreached';

/** Asks the API for a change; answers as a server action does. */
export async function sendJson<T = undefined>(
  method: 'POST' | 'PATCH' | 'DELETE',
  address: string,
  body?: unknown,
): Promise<ActionResult<T>> {
  try {
    const response = await fetch(address, {
      method,
      ...(body === undefined ? {} : { headers: { 'Content-Type': 'application/json' }, body: JSON.stringify(body) }),
    });
    if (response.status === 204) return { ok: true, value: undefined as T };
    const answer = (await response.json()) as T & { error?: ErrorRecord };
    return answer.error ? { ok: false, error: answer.error } : { ok: true, value: answer };
  } catch (error) {
    return sayUnreached(error);
  }
}
