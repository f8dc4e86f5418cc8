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
