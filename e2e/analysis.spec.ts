/** The views of the sound beside the trace: what each says of material that is known, and where each leads. */

import type { Page } from '@playwright/test';
import { wavOf } from '../tests/fixtures/wav';
import { expectAccessible } from './axe';
import { expect, test } from './desk';
import { FrameWork } from './frame-work';
import { openDesk, plotOf, RATE } from './swell';

const SECONDS = 18;
/** 100 Hz the same in both channels and 1 kHz inverted in one; 6 dB louder in its last third, with a peak at 15 s. */
const KNOWN = wavOf(
  [1, -1].map((sign) =>
    Float32Array.from({ length: SECONDS * RATE }, (_, n) => {
      const level = n < (2 / 3) * SECONDS * RATE ? 0.1 : 0.2;
      const [low, high] = [100, 1000].map((hz) => level * Math.sin((2 * Math.PI * hz * n) / RATE)) as [number, number];
      return n === 15 * RATE ? 0.999 : low + sign * 0.5 * high;
    }),
  ),
);

const panel = (page: Page) => page.getByRole('region', { name: 'Analysis', exact: true });
const view = (page: Page, name: string) => panel(page).getByRole('region', { name });
const press = (page: Page, name: string) => panel(page).getByRole('button', { name, exact: true }).click();

test('each view says what the material is known to have, and leads to what can be set', async ({ page, desk }) => {
  await openDesk(page, desk, 'Analysis', KNOWN);
  await page.getByRole('heading', { name: 'swell' }).first().click();
  await page.keyboard.press('p');
  await expect(view(page, 'Spectrum')).toContainText('No gain is set: before and after are the same.');
  await view(page, 'Spectrum').getByRole('button', { name: 'Set the gain' }).click();
  await expect(page.getByRole('dialog', { name: 'Gain' })).toBeVisible();
  await page.keyboard.press('Escape');

  await press(page, 'Stereo');
  // 100 Hz has four times the power of 1 kHz, which is all that is in the difference: a fifth.
  await expect(view(page, 'Stereo')).toContainText('Mono loses 1.0 dB: 20 % of the power is in the difference.');
  await expect(view(page, 'Stereo').getByRole('img', { name: /^100 Hz: 0 %/ })).toBeVisible();
  await expect(view(page, 'Stereo').getByRole('img', { name: /^800 Hz: 100 %.*more in the difference/ })).toBeVisible();
  await view(page, 'Stereo').getByRole('button', { name: 'Listen in mono' }).click();
  await expect(page.getByRole('button', { name: 'mono', pressed: true })).toBeVisible();

  await press(page, 'Thirds');
  await expect(view(page, 'Thirds')).toContainText('The loudest third is 6.0 LU over the softest.');
  await view(page, 'Thirds')
    .getByRole('button', { name: /^end, 0:12 to 0:18/ })
    .click();
  await expect(page.getByRole('group', { name: 'Span' })).toBeVisible();
  await page.keyboard.press('Escape');

  await press(page, 'Peaks');
  await expect(view(page, 'Peaks')).toContainText(/Least \d+\.\d dB, in the 3 s up to 0:/);

  await press(page, 'Limiter');
  await expect(view(page, 'Limiter')).toContainText('No limiter is on.');
  // The cards are folded away, and come back with the step that is asked for.
  await page.keyboard.press('w');
  await view(page, 'Limiter').getByRole('button', { name: 'Set the limiter' }).click();
  await expect(page.getByRole('dialog', { name: 'Limiter' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('checkbox', { name: 'Limiter on' }).check();
  await expect(view(page, 'Limiter')).toContainText(/It takes 3 dB or more during \d+\.\d % of the time/);
  await expectAccessible(page);
});

test('as many views are open as there is room for, and the desk comes back as it was left', async ({ page, desk }) => {
  await page.setViewportSize({ width: 1920, height: 1080 });
  await openDesk(page, desk, 'Kept', KNOWN);
  await page.getByRole('heading', { name: 'swell' }).first().click();
  await page.keyboard.press('f');
  await page.keyboard.press('p');
  await press(page, 'Peaks');
  await expect(panel(page).getByRole('region')).toHaveCount(2);
  await page.reload();
  await expect(panel(page).getByRole('region')).toHaveCount(2);
  await expect(page.getByRole('group', { name: 'Live readings' })).toBeVisible();
  await page.setViewportSize({ width: 900, height: 800 });
  await expect(view(page, 'Spectrum')).toBeVisible();
  await expect(plotOf(page)).toBeVisible();
  await panel(page).getByRole('button', { name: 'Close the analysis' }).click();
  await expect(panel(page)).toBeHidden();
});

/** All that the page's thread works for one picture of the screen with the gauge, the trace and three views, against a plain table. */
const MOST_OF_A_TABLE = 0.4;

test('with gauge, trace and three views, it moves with every picture of the screen', async ({ page, desk }) => {
  await page.setViewportSize({ width: 1920, height: 1080 });
  await openDesk(page, desk, 'Frames', KNOWN);
  await page.getByRole('heading', { name: 'swell' }).first().click();
  for (const key of ['w', 'p']) await page.keyboard.press(key);
  // The border between the trace and the analysis is the first: moved to the left, two views stand side by side.
  await page.getByRole('separator').first().focus();
  for (let i = 0; i < 3; i++) await page.keyboard.press('ArrowLeft');
  for (const name of ['Stereo', 'Peaks']) await press(page, name);
  await expect(panel(page).getByRole('region')).toHaveCount(3);
  await page.getByRole('heading', { name: 'swell' }).first().click();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Pause', exact: true })).toBeVisible();
  const work = await FrameWork.of(page);
  const [table, frame] = [await work.plainTableMs(), await work.watchedMs(180)];
  const frameMs = await work.frameTimesMs(180);
  console.log(
    `gauge, trace and three views: ${frame.toFixed(1)} ms of work a frame, a plain table ${table.toFixed(1)} ms; 95 % of frames within ${frameMs[170]?.toFixed(1)} ms`,
  );
  expect(frame / table).toBeLessThan(MOST_OF_A_TABLE);
});
