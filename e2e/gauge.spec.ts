/** The rule in motion: what it shows is what is heard, on each of its scales, and it says so in words. */
import type { Page } from '@playwright/test';
import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { type Desk, expect, test } from './desk';
import { FrameWork } from './frame-work';
import { openDesk } from './swell';

const RATE = 48_000;
/** EBU Tech 3341, test signal 1: 1 kHz at -23.0 dBFS in both channels reads -23.0 LUFS. So does 997 Hz. */
const steady = (levelDbfs: number, seconds: number) => {
  const samples = tone([{ seconds, levelDbfs }], RATE, 997);
  return wavOf([samples, samples]);
};

const meters = (page: Page) => page.getByRole('group', { name: 'Live readings' });
const reading = async (page: Page, name: string) => {
  const value = await meters(page).locator(`[data-reading="${name}"]`).getAttribute('data-value');
  return value === null ? Number.NaN : Number(value);
};

async function playWithMeters(page: Page, desk: Desk, name: string, bytes: Buffer): Promise<void> {
  await openDesk(page, desk, name, bytes);
  await page.getByRole('heading', { name: 'swell' }).click();
  await page.keyboard.press('f');
  await expect(meters(page)).toBeVisible();
  await page.keyboard.press('Space');
  await expect.poll(() => reading(page, 'S'), { timeout: 20_000 }).not.toBeNaN();
}

/** Where the short-term dot stands along the gauge, from 0 to 1: the middle of the darkest pixels of its lane. */
function dotAt(page: Page): Promise<number> {
  return page.evaluate(() => {
    const canvas = document.querySelector('canvas[data-gauge]') as HTMLCanvasElement;
    const { width, height } = canvas;
    // Of the rule's 130 pixels, the dot's are from 73 to 83.
    const y = Math.round((78 / 130) * height);
    const { data } = (canvas.getContext('2d') as CanvasRenderingContext2D).getImageData(0, y, width, 1);
    const opaque = Array.from({ length: width }, (_, x) => x).filter((x) => (data[4 * x + 3] ?? 0) > 250);
    // The dot comes first, its name behind it.
    const [first = Number.NaN] = opaque;
    let last = first;
    while (opaque.includes(last + 1)) last++;
    return (first + last) / 2 / width;
  });
}

test('a steady tone stands where its loudness is, on each scale, and is held against the spec', async ({
  page,
  desk,
}) => {
  await playWithMeters(page, desk, 'Steady', steady(-20, 20));
  await expect.poll(async () => (await reading(page, 'S')).toFixed(1)).toBe('-20.0');
  await expect.poll(async () => (await reading(page, 'I')).toFixed(1)).toBe('-20.0');
  // 3 LU over the target of EBU R 128.
  await expect(meters(page).locator('[data-reading="I"]').getByRole('img', { name: 'over' })).toBeVisible();
  await expect(meters(page).locator('[data-reading="TP"]').getByRole('img', { name: 'inside' })).toBeVisible();
  await page.keyboard.press('Space');
  await page.waitForTimeout(600);
  for (const { name, lowDb, highDb, shown } of [
    { name: '+9', lowDb: -41, highDb: -14, shown: '+3.0' },
    { name: '+18', lowDb: -59, highDb: -5, shown: '+3.0' },
    { name: 'dB', lowDb: -36, highDb: 6, shown: '−20.0' },
  ]) {
    await page.getByRole('radio', { name, exact: true }).click();
    await expect(meters(page).locator('[data-reading="S"]')).toContainText(shown);
    const wanted = (-20 - lowDb) / (highDb - lowDb);
    await expect.poll(async () => Math.abs((await dotAt(page)) - wanted), name).toBeLessThan(0.006);
  }
});

test('measuring is paused, not the sound; it goes on, begins anew, and is said', async ({ page, desk }) => {
  const loudLate = tone(
    [
      { seconds: 6, levelDbfs: -30 },
      { seconds: 30, levelDbfs: -10 },
    ],
    RATE,
    997,
  );
  await playWithMeters(page, desk, 'Paused', wavOf([loudLate, loudLate]));
  await page.getByRole('button', { name: 'Pause meters' }).click();
  const kept = await reading(page, 'I');
  await expect(meters(page)).toContainText('paused');
  await expect.poll(async () => (await reading(page, 'M')).toFixed(1), { timeout: 20_000 }).toBe('-10.0');
  expect(await reading(page, 'I')).toBe(kept);
  expect(kept).toBeCloseTo(-30, 0);
  await page.getByRole('button', { name: 'Continue meters' }).click();
  await expect.poll(() => reading(page, 'I')).toBeGreaterThan(-20);
  await page.getByRole('button', { name: 'Reset meters' }).click();
  await expect.poll(async () => (await reading(page, 'I')).toFixed(1)).toBe('-10.0');
  await page.getByRole('heading', { name: 'swell' }).click();
  await page.keyboard.press('u');
  await expect(meters(page).getByRole('status')).toContainText(
    /Momentary −10\.0 LUFS, short-term .+ true peak −\d+\.\d dBTP/,
  );
});

/** All that the page's thread works for one picture of the screen, with the gauge, the trace and the numbers in motion. Measured: 0.08. */
const MOST_OF_A_TABLE = 0.3;

test('it moves with every picture of the screen, at little work', async ({ page, desk }) => {
  await playWithMeters(page, desk, 'Frames', steady(-20, 40));
  const work = await FrameWork.of(page);
  const [table, frame] = [await work.plainTableMs(), await work.watchedMs(180)];
  const frameMs = await work.frameTimesMs(180);
  console.log(
    `gauge: ${frame.toFixed(1)} ms of work a frame, a plain table ${table.toFixed(1)} ms; 95 % of frames within ${frameMs[170]?.toFixed(1)} ms`,
  );
  expect(frame / table).toBeLessThan(MOST_OF_A_TABLE);
});
