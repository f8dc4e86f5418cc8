/** Every screen is for everybody: soon there, steady under the hand, and read aloud. */

import { axeOf } from './axe';
import { addDelivery } from './delivering';
import { expect, test } from './desk';
import { openDesk, PEAKY, plotOf } from './swell';

for (const colorScheme of ['light', 'dark'] as const)
  test(`a cold page shows a measured programme soon, and nothing moves under the hand, ${colorScheme}`, async ({
    page,
    desk,
    browser,
  }) => {
    await openDesk(page, desk, `Cold, ${colorScheme}`, PEAKY);
    const address = page.url();
    const cold = await (await browser.newContext({ viewport: { width: 1280, height: 800 }, colorScheme })).newPage();
    await cold.addInitScript(() => {
      const seen = { shift: 0, what: [] as string[] };
      Object.assign(window, { seen });
      new PerformanceObserver((list) => {
        for (const entry of list.getEntries() as (PerformanceEntry & { value: number; hadRecentInput: boolean })[]) {
          if (entry.hadRecentInput) continue;
          seen.shift += entry.value;
          const { sources = [] } = entry as { sources?: { node?: Element }[] };
          seen.what.push(...sources.map(({ node }) => node?.outerHTML?.slice(0, 120) ?? ''));
        }
      }).observe({ type: 'layout-shift', buffered: true });
    });
    const startedMs = performance.now();
    await cold.goto(address);
    await cold.getByRole('row', { name: /^Integrated/ }).waitFor();
    const readMs = performance.now() - startedMs;
    await expect(plotOf(cold)).toBeVisible();
    const paint = await cold.evaluate(() => performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? -1);
    console.log(
      `first paint ${paint.toFixed(0)} ms, readings ${readMs.toFixed(0)} ms, trace ${(performance.now() - startedMs).toFixed(0)} ms from a cold page`,
    );
    await cold.getByRole('heading', { name: 'swell' }).click();
    await cold.keyboard.press('Space');
    await expect(cold.getByRole('button', { name: 'Pause' })).toBeVisible();
    await cold.waitForTimeout(1500);
    await cold.keyboard.press('t');
    await cold.waitForTimeout(800);
    const { shift, what }: { shift: number; what: string[] } = await cold.evaluate('window.seen');
    expect(shift < 0.001 ? [] : what).toEqual([]);
    // The main loop of work needs no scrolling.
    const overflow = await cold.evaluate(() =>
      [...document.querySelectorAll('main, main > div > div')].map((own) => own.scrollHeight - own.clientHeight),
    );
    expect(Math.max(...overflow)).toBeLessThanOrEqual(1);
    // Nor on the next visit, which comes as the page was left.
    await cold.reload();
    await expect(plotOf(cold)).toBeVisible();
    await cold.waitForTimeout(1000);
    const again: { shift: number; what: string[] } = await cold.evaluate('window.seen');
    expect(again.shift < 0.001 ? [] : again.what).toEqual([]);
    await cold.close();
  });

test('where the system chooses the colours, what is drawn is still seen, and what is chosen is told; nothing moves by itself', async ({
  page,
  desk,
}) => {
  await page.emulateMedia({ forcedColors: 'active', reducedMotion: 'reduce' });
  await openDesk(page, desk, 'Forced colours', PEAKY);
  for (const key of ['f', 'p']) await page.keyboard.press(key);
  await expect(page.getByRole('region', { name: 'Spectrum' })).toContainText('before and after are the same');
  await page.keyboard.press('Space');
  await expect(page.getByRole('group', { name: 'Live readings' })).toContainText(/0:0[4-9] measured/);
  /** How many different colours a canvas shows. */
  const coloursOf = (selector: string) =>
    page
      .locator(selector)
      .first()
      .evaluate((canvas: HTMLCanvasElement) => {
        const { width, height } = canvas;
        const { data } = (canvas.getContext('2d') as CanvasRenderingContext2D).getImageData(0, 0, width, height);
        return new Set(new Uint32Array(data.buffer)).size;
      });
  await expect.poll(() => coloursOf('[role="slider"] canvas')).toBeGreaterThan(3);
  await expect.poll(() => coloursOf('canvas[data-gauge]')).toBeGreaterThan(3);
  await expect(page.getByRole('button', { name: 'Analysis', pressed: true })).toHaveCSS('outline-style', 'solid');
  const moving = await page.evaluate(() =>
    document.getAnimations().filter(({ effect }) => Number(effect?.getComputedTiming().duration) > 50),
  );
  expect(moving).toEqual([]);
  // The system sees to the contrast of words; axe would reckon with colours that are not shown.
  const { violations } = await axeOf(page).disableRules('color-contrast').analyze();
  expect(violations.map(({ id, nodes }) => `${id} ${nodes.map(({ html }) => html).join(' ')}`)).toEqual([]);
});

test('axe finds nothing on any screen, in either theme', async ({ page, desk }) => {
  test.setTimeout(360_000);
  const check = async (what: string) => {
    for (const theme of ['light', 'dark'] as const) {
      await page.evaluate((chosen) => {
        document.documentElement.dataset.theme = chosen;
      }, theme);
      await analyse(`${what}, ${theme}`, theme);
    }
  };
  const analyse = async (what: string, theme: 'light' | 'dark') => {
    // While a page is fetched again it is without a title for a moment: what is wrong for longer is found.
    await expect(async () => {
      const builder = axeOf(page);
      // Themes differ in nothing but colours.
      const { violations } = await (theme === 'dark' ? builder.withRules('color-contrast') : builder).analyze();
      expect(violations.map(({ id, nodes }) => `${what}: ${id} ${nodes.map(({ html }) => html).join(' ')}`)).toEqual(
        [],
      );
    }).toPass({ timeout: 25_000 });
  };
  await openDesk(page, desk, 'For everybody', PEAKY);
  await page.keyboard.press('0');
  await check('the desk');
  await page.keyboard.press('f');
  await expect(page.getByRole('group', { name: 'Live readings' })).toContainText('measured');
  await check('the meters');
  await page.keyboard.press('f');
  await page.keyboard.press('p');
  await page.getByRole('button', { name: 'Stereo', exact: true }).click();
  await expect(page.getByRole('region', { name: 'Stereo', exact: true })).toContainText('Mono loses');
  await check('the analysis');
  await page.keyboard.press('p');
  await page.getByRole('checkbox', { name: 'Limiter on' }).check();
  await page.getByRole('button', { name: /^Limiter:/ }).click();
  await check('a step');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^v1/ }).click();
  await check('the versions');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Charts' }).click();
  for (const name of ['How it will play', 'Loudness distribution', 'Short-term history', 'Programmes side by side']) {
    await page.getByRole('tab', { name }).click();
    await check(name);
  }
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Keys', exact: true }).click();
  await check('the keys');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Outboard' }).click();
  await page.getByRole('combobox', { name: 'Comes back at' }).click();
  await page.getByRole('option', { name: 'Simulated gear' }).click();
  await check('outboard');
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Take in' }).click();
  await expect(page.getByRole('row', { name: /swell/ })).toBeVisible();
  await check('take in');
  await page.getByRole('button', { name: 'Columns' }).click();
  await check('columns');
  await page.keyboard.press('Escape');
  await page.getByRole('checkbox', { name: 'Select swell' }).check();
  await page.getByRole('button', { name: 'Tags', exact: true }).click();
  await check('tags of what is selected');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Replace', exact: true }).click();
  await check('a new version');
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page, { file: 'MP3' });
  await expect(page.getByRole('row', { name: /MP3/ })).toContainText('→ … LUFS');
  await check('hand over');
  await page.getByRole('button', { name: 'Add a delivery' }).first().click();
  await check('a delivery');
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'Line up' }).click();
  await expect(page.getByRole('heading', { name: 'No line-ups yet' })).toBeVisible();
  await check('no line-ups');
  for (const kind of ['record', 'book']) {
    await page.getByRole('button', { name: 'New line-up' }).click();
    await page.getByLabel('Name', { exact: true }).fill(`A ${kind}`);
    await page.getByRole('combobox', { name: 'Kind' }).click();
    await page.getByRole('option', { name: kind }).click();
    await page.getByRole('dialog').getByLabel('swell').check();
    if (kind === 'book') await check('a new line-up');
    await page.getByRole('button', { name: 'Make the line-up' }).click();
    await expect(page.getByRole('table', { name: `Programmes of A ${kind}, in order` })).toBeVisible();
    await check(`a ${kind}`);
  }
  await page.getByRole('link', { name: 'Specs' }).click();
  await expect(page.getByRole('heading', { name: 'EBU R 128' })).toBeVisible();
  await check('specs');
  await page.getByRole('link', { name: 'Receivers' }).click();
  await expect(page.getByRole('heading', { name: 'Receivers' })).toBeVisible();
  await check('receivers');
  await page.getByRole('link', { name: 'Lines', exact: true }).click();
  await page.getByRole('button', { name: 'Add a line' }).click();
  await check('a new line');
  await page.getByLabel('Name', { exact: true }).fill('Foyer');
  await page.getByRole('radio', { name: 'a simulation' }).click();
  await page.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByRole('button', { name: 'Turn on' }).click();
  await page.getByRole('button', { name: 'Too hot' }).click();
  await expect(page.locator('[data-event="over"]')).toBeVisible();
  await page.getByRole('button', { name: 'Too hot' }).click();
  await check('a line');
  await page.getByRole('button', { name: 'Alarms' }).click();
  await check('alarms');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Recordings' }).click();
  await check('recordings');
  await page.keyboard.press('Escape');
  await page.getByRole('link', { name: 'All lines' }).click();
  await check('lines');
  await page.getByRole('button', { name: 'Turn off Foyer' }).click();
  await expect(page.getByRole('button', { name: 'Turn on Foyer' })).toBeVisible();
  await page.goto(`${desk.base}/jobs/none/take-in`);
  await check('a page that is not there');
  await page.goto(desk.base);
  await check('jobs');
});
