/** Many programmes at once: selected, delivered, told, taken out and put back; and all readings for a spreadsheet. */
import { parse } from 'csv-parse/sync';
import { musicLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { dropFiles, expect, startJob, test } from './desk';

const RATE = 48_000;
const files = Array.from({ length: 6 }, (_, i) => ({
  name: `Item ${String.fromCharCode(65 + i)}.wav`,
  bytes: wavOf(
    musicLike().map((samples) => samples.slice(i * 3 * RATE, (i * 3 + 4) * RATE).map((x) => (0.1 + 0.05 * i) * x)),
  ),
}));

test('six files are selected by range, delivered together, and taken out and put back', async ({ page, desk }) => {
  await startJob(page, desk, 'Many');
  await dropFiles(page, files);
  await page.getByRole('link', { name: 'Take in' }).click();
  await expect(page.getByRole('link', { name: 'Item F' })).toBeVisible();
  // Uploads go side by side: they arrive in any order.
  await page.getByRole('combobox', { name: 'Order' }).click();
  await page.getByRole('option', { name: 'by title' }).click();
  await expect(page.getByRole('checkbox', { name: /^Select Item/ }).first()).toHaveAccessibleName('Select Item A');
  const box = (name: string) => page.getByRole('checkbox', { name: `Select ${name}` });
  await box('Item B').check();
  await box('Item E').click({ modifiers: ['Shift'] });
  await expect(page.getByRole('heading', { name: '4 selected' })).toBeVisible();
  await box('Item C').uncheck();
  await expect(page.getByRole('heading', { name: '3 selected' })).toBeVisible();

  await page.getByRole('button', { name: 'Deliver all 3' }).click();
  await expect(page.getByText('3 written and verified')).toBeVisible({ timeout: 60_000 });
  await page.getByRole('checkbox', { name: 'Select all' }).click();
  await expect(page.getByRole('heading', { name: '6 selected' })).toBeVisible();
  await page.getByRole('button', { name: 'Only set levels' }).click();
  await expect(page.getByText('6 set')).toBeVisible({ timeout: 60_000 });

  await page.getByRole('button', { name: 'Clear' }).click();
  await expect(page.getByRole('heading', { name: /selected$/ })).toHaveCount(0);
  await box('Item A').check();
  await box('Item F').check();
  await page.getByRole('button', { name: 'Remove', exact: true }).click();
  await expect(page.getByRole('link', { name: 'Item F' })).toHaveCount(0);
  await expect(page.getByRole('link', { name: 'Item B' })).toBeVisible();

  await page.getByRole('button', { name: 'Readings' }).click();
  const link = page.getByRole('link', { name: 'Download (CSV)' });
  const text = await (await page.request.get(`${desk.base}${await link.getAttribute('href')}`)).text();
  expect((parse(text, { columns: true }) as { title: string }[]).map(({ title }) => title).sort()).toEqual([
    ...['Item B', 'Item C', 'Item D', 'Item E'],
  ]);
});
