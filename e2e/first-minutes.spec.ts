/** The first ten minutes of somebody who has never seen this: an empty data folder, one mix, and a file that meets the spec in four actions. */
import { join } from 'node:path';
import { ffmpegLoudness } from '../tests/fixtures/command';
import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { expectAccessible } from './axe';
import { dropFiles, expect, startJob, test } from './desk';
import { PEAKY, RATE } from './swell';

// Whatever this worker's other tests have left.
test.beforeAll(({ desk }) => desk.restart({ isEmpty: true }));

test('from a dropped mix to a file that meets the spec, in four actions', async ({ page, desk }) => {
  await page.goto(desk.base);
  await expect(page.getByText('Drop a mix here: it is measured, and you see what brings it into spec.')).toBeVisible();
  await expectAccessible(page);

  // 1: the mix is dropped; it is taken in and measured, and its desk opens.
  const choosing = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Choose files' }).click();
  await (await choosing).setFiles({ name: 'first mix.wav', mimeType: 'audio/wav', buffer: PEAKY });
  await page.waitForURL(/measure-and-set/);
  await expect(page.getByRole('heading', { name: 'first mix', level: 1 })).toBeVisible();

  // 2: what misses says by itself what mends it.
  const verdict = page.getByRole('list', { name: 'Verdict' });
  await verdict.getByRole('button', { name: /LU (over|under): turn (up|down)/ }).click();
  await expect(verdict).toContainText('on target at −23.0 LUFS');

  // 3: it is written, and measured again.
  await page.getByRole('button', { name: 'Deliver', exact: true }).click();
  await page.waitForURL(/hand-over/);
  const row = page.getByRole('row', { name: /first-mix_ebu-r128/ });
  await expect(row).toContainText('verified');

  // 4: it is fetched.
  const waiting = page.waitForEvent('download');
  await page
    .getByRole('link', { name: /^Download/ })
    .first()
    .click();
  const path = join(desk.scratch, 'first.wav');
  await (await waiting).saveAs(path);
  expect(Math.abs(ffmpegLoudness(path).integratedLufs - -23)).toBeLessThan(0.2);

  // The same once more is the same file: nothing is written twice.
  await page.goBack();
  await page.getByRole('button', { name: 'Deliver', exact: true }).dblclick();
  await page.waitForURL(/hand-over/);
  await expect(page.getByRole('row', { name: /first-mix_ebu-r128/ })).toHaveCount(1);
});

test('the tour is offered once, walks over the desk, and can be left at any step', async ({ page, desk }) => {
  await page.goto(desk.base);
  const dataTransfer = await page.evaluateHandle((text) => {
    const transfer = new DataTransfer();
    transfer.items.add(new File([Uint8Array.from(atob(text), (c) => c.charCodeAt(0))], 'second mix.wav'));
    return transfer;
  }, PEAKY.toString('base64'));
  await page.dispatchEvent('body', 'drop', { dataTransfer });
  await page.waitForURL(/measure-and-set/);
  await page.getByRole('button', { name: 'Take the tour' }).click();
  const tour = page.getByRole('dialog', { name: 'Tour' });
  for (const title of ['The verdict', 'The trace', 'The rule', 'The treatment']) {
    await expect(tour).toContainText(title);
    await expectAccessible(page);
    await tour.getByRole('button', { name: 'Next' }).click();
  }
  await expect(tour).toContainText('5 of 5');
  await tour.getByRole('button', { name: 'Done' }).click();
  await expect(tour).toBeHidden();
  await page.reload();
  await expect(page.getByRole('button', { name: 'Review copy' })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Take the tour' })).toBeHidden();
  await page.keyboard.press('?');
  await page.getByRole('button', { name: 'Take the tour' }).click();
  await expect(tour).toContainText('1 of 5');
  await page.keyboard.press('Escape');
  await expect(tour).toBeHidden();
  await expect(page.locator('[data-toured]')).toHaveCount(0);
});

test('the list of jobs says at a glance how each stands and what comes next', async ({ page, desk }) => {
  await page.goto(desk.base);
  const row = page.getByRole('listitem').filter({ hasText: 'second mix' });
  await expect(row).toContainText('1 programme');
  await expect(row).toContainText('1 outside');
  await row.getByRole('link', { name: 'Set 1 outside the spec' }).click();
  await page.waitForURL(/measure-and-set/);
  const other = await page.context().newPage();
  await other.goto(desk.base);
  await expect(other.getByRole('listitem').filter({ hasText: 'second mix' })).toContainText('1 outside');
  // What is set here is told there.
  await page.getByRole('button', { name: /Meet the target/ }).click();
  await expect(other.getByRole('listitem').filter({ hasText: 'second mix' })).toContainText('1 inside');
  await expect(other.getByRole('listitem').filter({ hasText: 'first mix' })).toContainText('all written');
});

test('what was found leads to the step that mends it, once', async ({ page, desk }) => {
  await startJob(page, desk, 'Found');
  const late = tone(
    [
      { seconds: 3, levelDbfs: null },
      { seconds: 5, levelDbfs: -20 },
    ],
    RATE,
  );
  await dropFiles(page, [{ name: 'late.wav', bytes: wavOf([late, late]) }]);
  const row = page.getByRole('row', { name: /late/ });
  await expect(row).toContainText('Silence at the start');
  await row.getByRole('link', { name: 'Set: Trim' }).click();
  await page.waitForURL(/measure-and-set/);
  await expect(page.getByRole('dialog', { name: 'Trim' })).toBeVisible();
  await expect.poll(() => page.url()).not.toContain('step=');
  await page.keyboard.press('Escape');
  await page.reload();
  await expect(page.getByRole('button', { name: 'Review copy' })).toBeVisible();
  await expect(page.getByRole('dialog')).toHaveCount(0);
});
