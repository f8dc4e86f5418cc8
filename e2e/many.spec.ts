/** Many programmes at once: selected, delivered, told, taken out and put back; and all readings for a spreadsheet. */
import { parse } from 'csv-parse/sync';
import { musicLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { expect, startJob, takeInAll, test } from './desk';
import { namesInZip } from './zip-names';

const RATE = 48_000;
const files = Array.from({ length: 6 }, (_, i) => ({
  name: `Item ${String.fromCharCode(65 + i)}.wav`,
  bytes: wavOf(
    musicLike().map((samples) => samples.slice(i * 3 * RATE, (i * 3 + 4) * RATE).map((x) => (0.1 + 0.05 * i) * x)),
  ),
}));

test('six files are selected by range, delivered together, and taken out and put back', async ({ page, desk }) => {
  await startJob(page, desk, 'Many');
  await takeInAll(page, files);
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

test('what is looked for is found, selected, and sent out as review copies, without the mouse', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Found');
  await takeInAll(page, files.slice(0, 4));
  await page.getByRole('heading', { name: 'Take in' }).click();
  await page.keyboard.press('/');
  await page.keyboard.type('item c');
  await expect(page.getByText('1 of 4 programmes')).toBeVisible();
  await expect(page.getByRole('link', { name: 'Item A' })).toHaveCount(0);
  await page.keyboard.type('xyz');
  await expect(page.getByText('None of the programmes matches.')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('link', { name: 'Item A' })).toBeVisible();

  await page.getByRole('combobox', { name: 'Show' }).press('Enter');
  await page.getByRole('option', { name: 'outside the spec' }).press('Enter');
  await expect(page.getByRole('link', { name: /^Item/ })).toHaveCount(4);
  await page.keyboard.press('/');
  await page.keyboard.type('b.wav');
  await expect(page.getByText('1 of 4 programmes')).toBeVisible();
  // What is selected while the server is still asked for all that is listed is not lost.
  let answer = () => {};
  const isAnswered = new Promise<void>((resolve) => {
    answer = resolve;
  });
  await page.route(/\/jobs\//, async (route) => {
    if (route.request().headers()['next-action']) await isAnswered;
    await route.continue();
  });
  await page.getByRole('checkbox', { name: 'Select all' }).press('Space');
  await page.getByRole('searchbox', { name: 'Find' }).fill('');
  await page.getByRole('checkbox', { name: 'Select Item D' }).press('Space');
  await expect(page.getByRole('heading', { name: '1 selected' })).toBeVisible();
  answer();
  await expect(page.getByRole('heading', { name: '2 selected' })).toBeVisible();
  await page.unroute(/\/jobs\//);
  await page.getByRole('button', { name: 'Review copies' }).press('Enter');
  await expect(page.getByText('2 review copies')).toBeVisible({ timeout: 60_000 });
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download (ZIP)' }).press('Enter');
  expect(await namesInZip(await (await download).path())).toEqual([
    'Item B (review copy).mp3',
    'Item D (review copy).mp3',
  ]);
  // They are no deliveries.
  await page.getByRole('link', { name: 'Hand over' }).press('Enter');
  await expect(page.getByText('review copy')).toHaveCount(0);
});

test('misses are decided at once, rows are copied, and all of it is downloaded as one ZIP', async ({ page, desk }) => {
  await startJob(page, desk, 'Misses');
  await takeInAll(page, files.slice(0, 3));
  const jobId = /jobs\/([^/]+)/.exec(page.url())?.[1];
  const { rows } = await (await page.request.get(`${desk.base}/api/jobs/${jobId}/take-in?spec=ebu-r128`)).json();
  for (const { id } of rows) {
    const wanted = { programmeId: id, specId: 'ebu-r128', format: { kind: 'wav' }, levelMode: { kind: 'as-set' } };
    const answer = await page.request.post(`${desk.base}/api/rows`, { data: wanted, headers: { origin: desk.base } });
    expect(answer.ok()).toBe(true);
  }
  await page.goto(`${desk.base}/jobs/${jobId}/hand-over?programme=all`);
  const all = page.getByRole('checkbox', { name: 'Tick all that can be written' });
  await all.check();
  await page.getByRole('button', { name: 'Write 3 deliveries' }).click();
  const misses = page.getByRole('region', { name: '3 files miss their spec' });
  await misses.getByRole('button', { name: 'Recalculate and rewrite 3' }).click();
  await expect(page.getByText('3 verified')).toBeVisible({ timeout: 60_000 });
  await expect(page.getByRole('region', { name: /files miss their spec/ })).toHaveCount(0);

  await page
    .getByRole('button', { name: /^Add another row like that of/ })
    .first()
    .click();
  const dialog = page.getByRole('dialog', { name: 'Another delivery for EBU R 128' });
  await dialog.getByRole('button', { name: 'Add the row' }).click();
  await expect(page.getByRole('checkbox', { name: /^Write / })).toHaveCount(4);
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'All files (ZIP)' }).click();
  const names = await namesInZip(await (await download).path());
  expect(names.filter((name) => name.endsWith('.wav'))).toHaveLength(3);
  expect(names).toContain('certificates.pdf');
});
