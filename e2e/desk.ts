import { type ChildProcess, spawn } from 'node:child_process';
import { once } from 'node:events';
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { type Browser, test as base, chromium, expect, type Page } from '@playwright/test';

/** Of the first worker; each has its own. */
const FIRST_PORT = 4400;

export interface Desk {
  base: string;
  /** Where the server keeps what it has, now: another test may have had it start over an empty folder. */
  data(): string;
  /** A folder for files that a test makes. */
  scratch: string;
  /** A folder of the server's own disk that files may be taken in from. */
  media: string;
  /** Ends the server's process at once, and starts another over the same data, or over an empty folder. */
  restart(options?: { isEmpty?: boolean }): Promise<void>;
}

/** Every test file gets the built app over an empty data folder; no page may log an error. */
export const test = base.extend<{ quietConsole: undefined }, { desk: Desk }>({
  desk: [
    // biome-ignore lint/correctness/noEmptyPattern: the runner reads the dependencies from the pattern.
    async ({}, use, { parallelIndex }) => {
      const port = FIRST_PORT + parallelIndex;
      const scratch = mkdtempSync(join(tmpdir(), 'opsimeter-e2e-'));
      const media = join(scratch, 'media');
      mkdirSync(media);
      let folders = 1;
      const data = () => join(scratch, `data${folders}`);
      const start = () => startServer(data(), media, port);
      let server = await start();
      const end = async (signal: NodeJS.Signals) => {
        const ended = once(server, 'exit');
        server.kill(signal);
        await ended;
      };
      const restart: Desk['restart'] = async ({ isEmpty = false } = {}) => {
        await end('SIGKILL');
        if (isEmpty) folders++;
        server = await start();
      };
      await use({ base: `http://127.0.0.1:${port}`, data, scratch, media, restart });
      await end('SIGTERM');
      rmSync(scratch, { recursive: true, force: true });
    },
    { scope: 'worker' },
  ],
  quietConsole: [
    async ({ page }, use) => {
      const errors: string[] = [];
      page.on('pageerror', (error) => errors.push(error.message));
      page.on('console', (message) => message.type() === 'error' && errors.push(message.text()));
      await use(undefined);
      // A refused file, or a server that is started again, is logged by the browser itself.
      const isExpected = (text: string) =>
        text.includes('the server responded with a status of 4') || text.includes('net::ERR_');
      expect(errors.filter((text) => !isExpected(text))).toEqual([]);
    },
    { auto: true },
  ],
});

export { expect };

async function startServer(data: string, media: string, port: number): Promise<ChildProcess> {
  const folders = { OPSIMETER_DATA: data, OPSIMETER_MEDIA: media };
  const server = spawn(process.execPath, ['scripts/serve.mjs'], {
    env: { ...process.env, NODE_ENV: 'production', ...folders, PORT: String(port) },
    stdio: ['ignore', 'pipe', 'inherit'],
  });
  await new Promise<void>((resolve, reject) => {
    server.stdout.on('data', (bytes: Buffer) => String(bytes).includes('Opsimeter is at') && resolve());
    server.once('exit', () => reject(new Error('the server did not start')));
  });
  return server;
}

export async function startJob(page: Page, desk: Desk, name: string): Promise<void> {
  await page.goto(desk.base);
  await page.getByLabel('New job').fill(name);
  await page.getByRole('button', { name: 'Start the job' }).click();
  await page.waitForURL(/\/jobs\/.+\/take-in/);
}

/** Drops files on the page as a person would, from their paths. */
export async function dropFiles(page: Page, files: { name: string; bytes: Buffer }[]): Promise<void> {
  const encoded = files.map(({ name, bytes }) => ({ name, text: bytes.toString('base64') }));
  await page.evaluate((list) => {
    const transfer = new DataTransfer();
    for (const { name, text } of list) {
      const content = Uint8Array.from(atob(text), (character) => character.charCodeAt(0));
      transfer.items.add(new File([content], name));
    }
    for (const type of ['dragover', 'drop']) {
      window.dispatchEvent(new DragEvent(type, { dataTransfer: transfer, bubbles: true, cancelable: true }));
    }
  }, encoded);
}

/** Drops files on Take in, and waits for the row of each: uploads go side by side, and arrive in any order. */
export async function takeInAll(page: Page, files: { name: string; bytes: Buffer }[]): Promise<void> {
  await dropFiles(page, files);
  for (const { name } of files) {
    await expect(page.getByRole('link', { name: name.replace(/\.wav$/, ''), exact: true })).toBeVisible();
  }
}

/** A browser whose machine has an input: Chromium's own stand-in for a device, which plays a file again and again. */
export function browserWithInput(file: string): Promise<Browser> {
  const { launchOptions } = test.info().project.use;
  return chromium.launch({
    ...launchOptions,
    args: [
      ...(launchOptions?.args ?? []),
      '--use-fake-device-for-media-stream',
      '--use-fake-ui-for-media-stream',
      `--use-file-for-fake-audio-capture=${file}`,
    ],
  });
}
