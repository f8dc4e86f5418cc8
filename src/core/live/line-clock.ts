/** What arrives together may come late, never early: the earliest of so long is taken to be on time. */
const WINDOW_MS = 30_000;
const MOST_WINDOWS = 120;
/** Less than so many windows say nothing of a drift. */
const LEAST_WINDOWS = 3;
/** Where a line and this machine's clock are apart by more, the line's time is set again. */
const MOST_APART_MS = 100;

/**
 * Holds a line's own time, which its frames count, against this machine's clock: when each of its 100 ms sounded, and how much faster or
 * slower than the clock it runs.
 */
export class LineClock {
  /** Of the clock, when the line's time was 0. */
  #zeroMs: number;
  /** Of each window that is over: the line's time, and how early its earliest part came. */
  readonly #windows: { lineMs: number; apartMs: number }[] = [];
  #window = { startLineMs: 0, leastMs: Number.POSITIVE_INFINITY };

  /** @param arrivedMs by the clock, when the line's first frame sounded */
  constructor(arrivedMs: number) {
    this.#zeroMs = arrivedMs;
  }

  /** Notes that all up to a time of the line has arrived. */
  arrived(lineMs: number, clockMs: number): void {
    let apartMs = clockMs - lineMs - this.#zeroMs;
    // What comes ahead of its time is what waited at its sender: the line's time began earlier than its first part came.
    if (apartMs < -MOST_APART_MS) {
      this.#shift(apartMs);
      apartMs = 0;
    }
    this.#window.leastMs = Math.min(this.#window.leastMs, apartMs);
    if (lineMs - this.#window.startLineMs < WINDOW_MS) return;
    const { leastMs } = this.#window;
    this.#windows.push({ lineMs, apartMs: leastMs });
    if (this.#windows.length > MOST_WINDOWS) this.#windows.shift();
    this.#window = { startLineMs: lineMs, leastMs: Number.POSITIVE_INFINITY };
    if (leastMs > MOST_APART_MS) this.#shift(leastMs);
  }

  #shift(ms: number): void {
    this.#zeroMs += ms;
    for (const own of this.#windows) own.apartMs -= ms;
    this.#window.leastMs -= ms;
  }

  /** By this machine's clock, when a time of the line sounded. */
  clockMs(lineMs: number): number {
    return this.#zeroMs + lineMs;
  }

  /** How much faster than this machine's clock the line runs, in parts of a million; null before enough of it was heard. */
  get driftPpm(): number | null {
    const count = this.#windows.length;
    if (count < LEAST_WINDOWS) return null;
    const meanX = this.#windows.reduce((sum, { lineMs }) => sum + lineMs, 0) / count;
    const meanY = this.#windows.reduce((sum, { apartMs }) => sum + apartMs, 0) / count;
    let [products, squares] = [0, 0];
    for (const { lineMs, apartMs } of this.#windows) {
      products += (lineMs - meanX) * (apartMs - meanY);
      squares += (lineMs - meanX) ** 2;
    }
    return (-products / squares) * 1e6;
  }
}
