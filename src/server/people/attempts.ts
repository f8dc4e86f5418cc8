import type { Clock } from '../tasks/queue';

/** So many failures of one name or one address, in so long, and it has to wait. */
const MOST_FAILURES = 5;
const WITHIN_MS = 15 * 60_000;
/** More names than anybody has; the ones that failed longest ago are forgotten. */
const MOST_KEYS = 10_000;

/** Failures to sign in, by name and by address: guessing is slowed down, and nobody is locked out for longer than a quarter of an hour. */
export class Attempts {
  readonly #failures = new Map<string, number[]>();

  constructor(private readonly clock: Clock) {}

  /** How long has to be waited, in ms; 0 where nothing has. */
  waitMs(keys: readonly string[]): number {
    const now = this.clock.now();
    return Math.max(0, ...keys.map((key) => this.#waitOf(key, now)));
  }

  failed(keys: readonly string[]): void {
    const now = this.clock.now();
    for (const key of keys) {
      const recent = this.#recent(key, now);
      this.#failures.delete(key);
      this.#failures.set(key, [...recent, now]);
    }
    while (this.#failures.size > MOST_KEYS) this.#failures.delete(this.#failures.keys().next().value as string);
  }

  /** Of a name that has signed in nothing is held against it any more. */
  succeeded(key: string): void {
    this.#failures.delete(key);
  }

  #recent(key: string, now: number): number[] {
    return (this.#failures.get(key) ?? []).filter((atMs) => now - atMs < WITHIN_MS);
  }

  #waitOf(key: string, now: number): number {
    const recent = this.#recent(key, now);
    const first = recent.at(-MOST_FAILURES);
    return first === undefined ? 0 : first + WITHIN_MS - now;
  }
}
