import { isDeepStrictEqual } from 'node:util';
import { AppError } from '@/core/errors/app-error';

/** Some of what there is of something; what is left out, or undefined, is not spoken of. */
export type Some<T> = { [K in keyof T]?: T[K] | undefined };

/** What stands somewhere now, and a change of it by somebody who may not have seen that. */
interface SeenChange<T extends object> {
  /** What it is called, for who is told of it. */
  title: string;
  now: T;
  wanted: Some<T>;
  /** What they saw; undefined where they do not say. */
  seen: Some<T> | undefined;
}

/**
 * Makes sure that nothing is overwritten that whoever changes it has not seen: of what they change, all is what they saw, or is already
 * what they want. Only what both state counts.
 *
 * @throws AppError `changed-elsewhere`
 */
export function checkUnchanged<T extends object>({ title, now, wanted, seen }: SeenChange<T>): void {
  if (!seen) return;
  for (const key of Object.keys(wanted) as (keyof T)[]) {
    if (wanted[key] === undefined) continue;
    const isSeen = seen[key] === undefined || isSame(now[key], seen[key]);
    if (!isSeen && !isSame(now[key], wanted[key])) throw new AppError('changed-elsewhere', { title });
  }
}

/** As it travels to a page and back: what is undefined is not there. */
function isSame(one: unknown, other: unknown): boolean {
  const [left, right] = [one, other].map((value) => JSON.parse(JSON.stringify({ value })) as unknown);
  return isDeepStrictEqual(left, right);
}
