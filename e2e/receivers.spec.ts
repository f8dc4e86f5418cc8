/** Deliveries that go somewhere: chosen in a row, sent once verified, answered, refused, sent again; and receivers themselves. */
import { COVER } from '../tests/fixtures/cover';
import { musicLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { addDelivery } from './delivering';
import { dropFiles, expect, startJob, test } from './desk';

const PIECE = wavOf(musicLike().map((samples) => samples.slice(8 * 48_000, 18 * 48_000).map((x) => 0.7 * x)));

test('a row says where it goes; its file is accepted there, or refused with a reason and sent again', async ({
  page,
  desk,
}) => {
  await page.goto(`${desk.base}/receivers?receiver=network-desk`);
  await expect(page.getByRole('heading', { name: 'Network intake' })).toBeVisible();
  await expect(page.getByText('meets EBU R 128')).toBeVisible();
  await page.getByRole('radio', { name: 'next 1 ×' }).click();
  await expect(page.getByRole('radio', { name: 'next 1 ×' })).toBeChecked();
  await page.getByRole('button', { name: 'refuses everything' }).click();
  await expect(page.getByRole('button', { name: 'refuses everything' })).toHaveAttribute('aria-pressed', 'true');

  await startJob(page, desk, 'Sent');
  await dropFiles(page, [{ name: 'piece.wav', bytes: PIECE }]);
  await page.getByRole('link', { name: 'piece' }).click();
  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page, { levels: 'gain only', receiver: /Network intake/ });
  const row = page.locator('tr[data-standing]').first();
  await expect(row).toContainText('to Network intake');
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  await expect(row).toContainText('the intake accepts nothing at the moment', { timeout: 30_000 });
  await row.getByRole('button', { name: /Delivery log of/ }).click();
  const log = page.getByRole('dialog', { name: /Delivery log of/ });
  await expect(log).toContainText('connection lost; retrying in 1 s');
  await expect(log).toContainText('refused: the intake accepts nothing at the moment');
  await page.keyboard.press('Escape');

  const sheet = page.url();
  await page.getByRole('link', { name: 'Receivers' }).click();
  await expect(page.getByRole('table', { name: 'Transfers' })).toContainText('piece_ebu-r128_v1.wav');
  await page.getByRole('button', { name: 'refuses everything' }).click();
  await expect(page.getByRole('button', { name: 'refuses everything' })).toHaveAttribute('aria-pressed', 'false');
  await page.goto(sheet);
  await row.getByRole('button', { name: 'Send again' }).click();
  await expect(row).toContainText('accepted', { timeout: 30_000 });
  await expect(row).toContainText('by Network intake');
});

test('a receiver of one’s own is added, and its secret is never shown again', async ({ page, desk }) => {
  await page.goto(`${desk.base}/receivers`);
  await page.getByRole('button', { name: 'Add a receiver' }).click();
  const dialog = page.getByRole('dialog', { name: 'Add a receiver' });
  await dialog.getByLabel('Name').fill('Night station');
  await dialog.getByLabel('Address').fill('station.example/in');
  await dialog.getByRole('button', { name: 'Add' }).click();
  await expect(dialog.getByRole('alert')).toContainText('An address begins with http');
  await dialog.getByLabel('Address').fill('https://station.example/in');
  await dialog.getByLabel('Shared secret').fill('between-us');
  await dialog.getByRole('button', { name: 'Add' }).click();
  await expect(page.getByRole('heading', { name: 'Night station' })).toBeVisible();
  await expect(page.getByText('saved, never shown')).toBeVisible();
  expect(await page.content()).not.toContain('between-us');
  await page.getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByRole('link', { name: 'Night station' })).toHaveCount(0);
});

test('a cover is chosen, and a file handed over as it came but for what it says of itself', async ({ page, desk }) => {
  await startJob(page, desk, 'As it came');
  await dropFiles(page, [{ name: 'piece.wav', bytes: PIECE }]);
  await page.getByRole('link', { name: 'piece' }).click();
  await page.getByRole('link', { name: 'Hand over' }).click();
  await page.getByRole('button', { name: /^Tags/ }).click();
  const tags = page.getByRole('dialog', { name: /^Tags of/ });
  await tags.getByLabel('A cover', { exact: true }).setInputFiles({
    name: 'cover.png',
    mimeType: 'image/png',
    buffer: COVER,
  });
  await expect(tags.getByRole('img', { name: 'Cover of piece' })).toBeVisible();
  await tags.getByLabel('Title').fill('A piece');
  await tags.getByRole('button', { name: 'Save' }).click();
  await addDelivery(page, { spec: /Archive/, levels: 'tags only' });
  const row = page.locator('tr[data-standing]').first();
  await expect(row).toContainText('WAV 24-bit · 48 kHz · tags only');
  await page.getByRole('checkbox', { name: /^Write/ }).check();
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  await expect(row).toContainText('sha256');
  await expect(row).toContainText('none');
});
