import { toErrorRecord } from '@/core/errors/app-error';

/** Runs a server action's work and turns what it throws into a record that reaches the page. */
export async function answer<T>(work: () => Promise<T> | T) {
  try {
    return { ok: true as const, value: await work() };
  } catch (error) {
    return { ok: false as const, error: toErrorRecord(error) };
  }
}
