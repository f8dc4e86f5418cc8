import type { ErrorRecord } from '@/core/errors/app-error';
import type { ActionResult } from '../action-result';
import { sayUnreached } from '../server-unreached';

/** What went wrong on the way to an answer, as it is said. */
export class RequestError extends Error {
  constructor(readonly record: ErrorRecord) {
    super(record.happened);
  }
}

/** An answer of this app. Throws a `RequestError`; a request that was given up says nothing. */
export async function fetchAnswer(address: string, signal?: AbortSignal): Promise<Response> {
  const response = await fetch(address, signal ? { signal } : {}).catch((error: unknown) => {
    if (signal?.aborted) throw error;
    throw new RequestError(sayUnreached(error).error);
  });
  if (response.ok) return response;
  const told = (await response.json().catch(() => undefined)) as { error?: ErrorRecord } | undefined;
  throw new RequestError(told?.error ?? sayUnreached(response.status).error);
}

export async function fetchJson<T>(address: string, signal?: AbortSignal): Promise<T> {
  return (await fetchAnswer(address, signal)).json() as Promise<T>;
}

/** What a query ended with, as it is said. */
export function recordOf(error: unknown): ErrorRecord {
  return error instanceof RequestError ? error.record : sayUnreached(error).error;
}

/** What a server action answers, for a query. Throws a `RequestError`. */
export async function answered<T>(action: Promise<ActionResult<T>>): Promise<T> {
  const result = await action.catch(sayUnreached);
  if (!result.ok) throw new RequestError(result.error);
  return result.value;
}
