/** Two windows on one job see what is set in the other. */
import { dropFiles, expect, startJob, test } from './desk';
import { BURSTS } from './material';

test('what is set in one window is seen in the other, and nothing is overwritten in silence', async ({
  page,
  desk,
  context,
}) => {
  await startJob(page, desk, 'Two windows');
  await dropFiles(page, [{ name: 'bursts.wav', bytes: BURSTS }]);
  await page.getByRole('link', { name: 'bursts' }).click();
  const gain = page.getByRole('slider', { name: 'Gain' });
  await expect(gain).toBeVisible();
  const other = await context.newPage();
  await other.goto(page.url());
  const otherGain = other.getByRole('slider', { name: 'Gain' });
  await expect(otherGain).toBeVisible();
  // Both listen before anything is set.
  await other.waitForTimeout(500);

  await page.getByRole('heading', { name: 'bursts' }).click();
  await page.keyboard.press('h');
  const set = await gain.getAttribute('aria-valuenow');
  expect(set).not.toBe('0');
  await expect(otherGain).toHaveAttribute('aria-valuenow', set ?? '');
  // It was seen: what is set there next is set upon it.
  await other.getByRole('heading', { name: 'bursts' }).click();
  await other.keyboard.press('0');
  await expect(gain).toHaveAttribute('aria-valuenow', '0');
  await expect(page.getByText(/was changed in another window/)).toHaveCount(0);

  // By the API, too, which no page knows of.
  const { origin, pathname } = new URL(page.url());
  const jobId = pathname.split('/')[2];
  const { rows } = await (await page.request.get(`${origin}/api/jobs/${jobId}/take-in?spec=ebu-r128`)).json();
  const changed = await page.request.patch(`${origin}/api/programmes/${rows[0].id}/treatment`, {
    data: { gainDb: -4.5 },
    headers: { origin },
  });
  expect(changed.ok()).toBe(true);
  for (const own of [gain, otherGain]) await expect(own).toHaveAttribute('aria-valuenow', '-4.5');

  await other.getByRole('link', { name: 'Take in' }).click();
  await other.getByRole('row', { name: 'bursts.wav' }).getByRole('button', { name: 'Edit' }).click();
  await other.getByLabel('Title').fill('Evening bursts');
  await other.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('heading', { name: 'Evening bursts' })).toBeVisible();
});

test('an open form follows what another window sets, says what it typed over, and overwrites nothing unseen', async ({
  page,
  desk,
  context,
}) => {
  await startJob(page, desk, 'Two forms');
  await dropFiles(page, [{ name: 'bursts.wav', bytes: BURSTS }]);
  const row = (own: typeof page) => own.getByRole('row', { name: 'bursts.wav' });
  await expect(row(page)).toContainText('LUFS');
  const other = await context.newPage();
  await other.goto(page.url());
  for (const own of [page, other]) await row(own).getByRole('button', { name: 'Edit' }).click();
  await page.getByLabel('Title').fill('Morning bursts');
  await other.getByLabel('Title').fill('Evening bursts');
  await other.getByLabel('Note').fill('as agreed');
  await other.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('Another window has set this to “Evening bursts” meanwhile.')).toBeVisible();
  await expect(page.getByLabel('Note')).toHaveValue('as agreed');
  await expect(page.getByLabel('Title')).toHaveValue('Morning bursts');
  // Known by now, so it may be replaced.
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(other.getByRole('link', { name: 'Morning bursts' })).toBeVisible();

  // Tags of one programme, each window another of them.
  await page.getByRole('link', { name: 'Morning bursts' }).click();
  await page.waitForURL(/measure-and-set/);
  const sheet = page.url().replace('measure-and-set', 'hand-over');
  for (const own of [page, other]) {
    await own.goto(sheet);
    await own.getByRole('button', { name: /^Tags/ }).click();
  }
  await page.getByLabel('Artist').fill('The band');
  await other.getByLabel('Album').fill('Dawn');
  await other.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByLabel('Album')).toHaveValue('Dawn');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('dialog')).toHaveCount(0);
  await page.getByRole('button', { name: /^Tags/ }).click();
  await expect(page.getByLabel('Artist')).toHaveValue('The band');
  await expect(page.getByLabel('Album')).toHaveValue('Dawn');
});

test('specs are told to every window: where they are edited, and where they are judged by', async ({
  page,
  desk,
  context,
}) => {
  await startJob(page, desk, 'Shared specs');
  await dropFiles(page, [{ name: 'bursts.wav', bytes: BURSTS }]);
  await page.getByRole('link', { name: 'bursts' }).click();
  await expect(page.getByRole('slider', { name: 'Gain' })).toBeVisible();
  const editors = [await context.newPage(), await context.newPage()] as const;
  const [one, two] = editors;
  await one.goto(`${desk.base}/specs?spec=ebu-r128`);
  await one.getByRole('button', { name: 'Make a copy' }).click();
  await expect(one.getByRole('heading', { name: 'EBU R 128, copy' })).toBeVisible();
  // The desk offers it without being reloaded.
  await page.getByRole('combobox', { name: 'Spec' }).click();
  await page.getByRole('option', { name: /EBU R 128, copy/ }).click();
  await expect(page.getByRole('region', { name: 'Rule' })).toContainText('target −23.0 ±0.5');

  await two.goto(one.url());
  for (const own of editors) await own.getByRole('button', { name: 'Edit' }).click();
  await two.getByLabel('Name').fill('House rules');
  await one.getByLabel('Target', { exact: false }).first().fill('−20');
  await one.getByRole('button', { name: 'Save as version 2' }).click();
  await expect(page.getByRole('region', { name: 'Rule' })).toContainText('target −20.0');
  await expect(two.getByText(/Version 2 was saved in another window meanwhile/)).toBeVisible();
  await two.getByRole('button', { name: 'Save as version 3' }).click();
  await expect(two.getByRole('heading', { name: 'House rules' })).toBeVisible();
  // The other's target was not put back.
  await expect(two.getByRole('table')).toContainText('−20.0');
});
