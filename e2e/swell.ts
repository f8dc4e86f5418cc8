import type { Page } from '@playwright/test';
import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { type Desk, dropFiles, expect, startJob } from './desk';

export const RATE = 48_000;
const swell = tone(
  [
    { seconds: 6, levelDbfs: -30 },
    { seconds: 4, levelDbfs: -12 },
    { seconds: 6, levelDbfs: -30 },
  ],
  RATE,
  330,
);
/** Over the ceiling between its samples only, at two places. */
export const PEAKY = wavOf(
  [swell, swell].map((samples) => samples.map((x, n) => (n === 100_000 || n === 500_000 ? 0.97 : x))),
);

export const plotOf = (page: Page) => page.getByRole('slider', { name: /^Trace/ });

export async function openDesk(page: Page, desk: Desk, name: string, bytes: Buffer) {
  await startJob(page, desk, name);
  await dropFiles(page, [{ name: 'swell.wav', bytes }]);
  await page.getByRole('link', { name: 'swell' }).click();
  await expect(plotOf(page)).toBeVisible();
}
