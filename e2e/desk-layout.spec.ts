/** The desk shares the page that there is: nothing is cut, hardly anything is empty, and what was arranged is kept. */
import type { Page } from '@playwright/test';
import { dropFiles, expect, startJob, test } from './desk';
import { BURSTS } from './material';

/** From half a small screen, which is a small screen at 200 %, to a very large one. */
const SIZES = [
  [640, 400],
  [900, 800],
  [1280, 800],
  [1920, 1080],
  [2560, 1440],
  [3840, 2160],
] as const;

const plotHeight = async (page: Page) =>
  (await page.getByRole('slider', { name: /^Trace/ }).boundingBox())?.height ?? 0;

/** What of the desk stands outside its own panel, and how much of the page is below the desk. */
async function looked(page: Page) {
  return page.evaluate(() => {
    const panels = ['Trace', 'Rule', 'Treatment', 'Readings', 'Options, overs and markers'];
    const own = (name: string) => {
      const labelled = document.querySelector(`[aria-label="${name}"]`);
      if (labelled) return labelled.closest('section') ?? labelled.closest('div');
      return [...document.querySelectorAll('h2')].find((h) => h.textContent?.startsWith(name))?.closest('section');
    };
    const cut: string[] = [];
    let bottom = 0;
    for (const name of panels) {
      const panel = own(name);
      if (!panel) {
        cut.push(`${name} is missing`);
        continue;
      }
      const box = panel.getBoundingClientRect();
      bottom = Math.max(bottom, box.bottom);
      if (panel.scrollWidth > panel.clientWidth + 1) cut.push(`${name} is wider than its panel`);
      for (const inner of panel.querySelectorAll('button, canvas, svg, th, td')) {
        const { left, right, width } = inner.getBoundingClientRect();
        // What scrolls within its panel is cut by nothing but that.
        if (width > 0 && (right > box.right + 1 || left < box.left - 1))
          cut.push(`${name}: ${inner.outerHTML.slice(0, 80)}`);
      }
    }
    return { cut, emptyBelow: (window.innerHeight - bottom) / window.innerHeight, wide: document.body.scrollWidth };
  });
}

test('from half a small screen to a very large one, nothing is cut and the trace takes what is left', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Sizes');
  await dropFiles(page, [{ name: 'bursts.wav', bytes: BURSTS }]);
  await page.getByRole('link', { name: 'bursts' }).click();
  await expect(page.getByRole('slider', { name: /^Trace/ })).toBeVisible();
  let before = 0;
  for (const [width, height] of SIZES) {
    await page.setViewportSize({ width, height });
    await expect.poll(() => plotHeight(page), `${width} × ${height}`).toBeGreaterThan(60);
    await page.waitForTimeout(300);
    const { cut, emptyBelow, wide } = await looked(page);
    expect(cut, `${width} × ${height}`).toEqual([]);
    expect(wide).toBeLessThanOrEqual(width);
    if (width < 1024) continue;
    expect(emptyBelow, `${width} × ${height}`).toBeLessThan(0.1);
    const own = await plotHeight(page);
    expect(own).toBeGreaterThan(before);
    before = own;
  }
});

test('borders are dragged and moved by keys, panels fold, and all of it is kept', async ({ page, desk }) => {
  await startJob(page, desk, 'Borders');
  await dropFiles(page, [{ name: 'bursts.wav', bytes: BURSTS }]);
  await page.getByRole('link', { name: 'bursts' }).click();
  await page.setViewportSize({ width: 1600, height: 1000 });
  const first = await plotHeight(page);
  const border = page.getByRole('separator').first();
  await border.focus();
  await page.keyboard.press('ArrowUp');
  await expect.poll(() => plotHeight(page)).toBeLessThan(first);
  const box = await border.boundingBox();
  if (!box) throw new Error('there is no border');
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2, box.y - 120, { steps: 6 });
  await page.mouse.up();
  const dragged = await plotHeight(page);
  expect(dragged).toBeLessThan(first - 80);

  await page.getByRole('button', { name: 'Fold Readings' }).click();
  await expect(page.getByRole('heading', { name: /^Readings/ })).toBeHidden();
  await page.reload();
  await expect(page.getByRole('button', { name: 'Readings', expanded: false })).toBeVisible();
  await expect.poll(async () => Math.abs((await plotHeight(page)) - dragged)).toBeLessThan(3);
  await page.getByRole('button', { name: 'Readings', expanded: false }).click();
  await expect(page.getByRole('heading', { name: /^Readings/ })).toBeVisible();

  // What is folded still answers to its keys.
  await page.getByRole('button', { name: 'Fold Rule' }).click();
  await page.keyboard.press('t');
  await page.getByRole('button', { name: 'Rule', expanded: false }).click();
  await expect(page.getByRole('slider', { name: 'Gain' })).not.toHaveAttribute('aria-valuenow', '0');
  await page.getByRole('button', { name: 'Look' }).click();
  await expect.poll(() => plotHeight(page)).toBeGreaterThan(dragged);
});
