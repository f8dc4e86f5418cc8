import type { ErrorRecord } from '@/core/errors/app-error';

/** Sends JSON, and returns what comes of it. Throws an error that says why it was refused. */
export async function post<T>(address: string, body: unknown): Promise<T> {
  const response = await fetch(address, {
    method: 'POST',
    headers: { 'Content-Type': 'application/json' },
    body: JSON.stringify(body),
  });
  if (response.status === 204) return undefined as T;
  const answer = (await response.json()) as T & { error?: ErrorRecord };
  if (answer.error) throw new Error(saidOf(answer.error));
  return answer;
}

/** An error as one sentence. */
export function saidOf({ happened, todo }: ErrorRecord): string {
  return `${happened} ${todo}`;
}
