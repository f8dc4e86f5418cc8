import type { CDPSession, Page } from '@playwright/test';

const SCROLLED_FRAMES = 240;
const TABLES = 20;

/** What the page's own thread works for, whatever else the machine does meanwhile. */
export class FrameWork {
  readonly #page: Page;
  readonly #devtools: CDPSession;

  private constructor(page: Page, devtools: CDPSession) {
    this.#page = page;
    this.#devtools = devtools;
  }

  static async of(page: Page): Promise<FrameWork> {
    const devtools = await page.context().newCDPSession(page);
    await devtools.send('Performance.enable', { timeDomain: 'threadTicks' });
    return new FrameWork(page, devtools);
  }

  /** Milliseconds of work for each frame while the page is scrolled down and up again. */
  scrolledMs(): Promise<number> {
    return this.#during(SCROLLED_FRAMES, async (frames) => {
      const main = document.querySelector('main') as HTMLElement;
      for (let i = 0; i < frames; i++) {
        main.scrollBy(0, i < frames / 2 ? 60 : -60);
        await new Promise(requestAnimationFrame);
      }
    });
  }

  /** Milliseconds of work for each frame while so many go by and nothing is done. */
  watchedMs(frames: number): Promise<number> {
    return this.#during(frames, async (times) => {
      for (let i = 0; i < times; i++) await new Promise(requestAnimationFrame);
    });
  }

  /** Milliseconds from one picture of the screen to the next, in order of length, while so many go by. */
  frameTimesMs(frames: number): Promise<number[]> {
    return this.#page.evaluate(async (count) => {
      const times: number[] = [];
      for (let i = 0; i < count; i++) times.push(await new Promise<number>(requestAnimationFrame));
      return times
        .slice(1)
        .map((ms, i) => ms - (times[i] ?? 0))
        .sort((a, b) => a - b);
    }, frames);
  }

  /** Milliseconds for laying out a plain table of 200 rows: how fast the machine is at this moment. */
  plainTableMs(): Promise<number> {
    return this.#during(TABLES, async (times) => {
      for (let i = 0; i < times; i++) {
        const table = document.createElement('table');
        for (let row = 0; row < 200; row++) {
          for (let cell = 0, own = table.insertRow(); cell < 8; cell++) own.insertCell().textContent = `${row} ${cell}`;
        }
        document.body.append(table);
        if (table.offsetHeight === 0) throw new Error('a table has no height');
        table.remove();
        await new Promise(requestAnimationFrame);
      }
    });
  }

  async #during(times: number, work: (times: number) => Promise<void>): Promise<number> {
    const before = await this.#workedSeconds();
    await this.#page.evaluate(work, times);
    return (1000 * ((await this.#workedSeconds()) - before)) / times;
  }

  async #workedSeconds(): Promise<number> {
    const { metrics } = await this.#devtools.send('Performance.getMetrics');
    return metrics.find(({ name }) => name === 'TaskDuration')?.value ?? Number.NaN;
  }
}
