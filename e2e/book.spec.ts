/** A book and a record from drop to folder, by keys alone. */
import type { Locator } from '@playwright/test';
import { speech } from '@/cli/demo/synth';
import { musicLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { expect, startJob, takeInAll, test } from './desk';
import { namesInZip } from './zip-names';

const RATE = 48_000;
const chapters = [0.15, 0.6, 0.9].map((gain, i) => {
  const voice = speech(7, RATE, i + 1);
  const samples = Float64Array.from({ length: 10 * RATE }, (_, n) => {
    return gain * (voice[n - Math.round((0.1 + 0.4 * i) * RATE)] ?? 0) + 0.0003 * Math.sin(n * n * 0.7);
  });
  return { name: `Tides ch${i + 1}.wav`, bytes: wavOf([samples], { sampleRateHz: RATE }) };
});
const tracks = [0.5, 0.3].map((gain, i) => ({
  name: `Side ${i + 1}.wav`,
  bytes: wavOf(musicLike().map((samples) => samples.slice(i * 9 * RATE, (i * 9 + 7) * RATE).map((x) => gain * x))),
}));

/** A key does nothing to a button that is not ready yet. */
async function pressEnter(button: Locator): Promise<void> {
  await expect(button).toBeEnabled();
  await button.press('Enter');
}

test('a book is delivered and written into a folder of its own, by keys alone', async ({ page, desk }, testInfo) => {
  await startJob(page, desk, 'Tides');
  await takeInAll(page, chapters);
  await page.getByRole('link', { name: 'Line up' }).press('Enter');
  await page.getByRole('button', { name: 'Make', exact: true }).press('Enter');
  await page.getByRole('combobox', { name: 'Spec' }).press('Enter');
  await page.getByRole('option', { name: 'Audiobook retail' }).press('Enter');
  await expect(page.getByText('3 of 3 chapters have no verified file with the current settings')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Write the book' })).toBeDisabled();
  await pressEnter(page.getByRole('button', { name: 'Deliver all 3' }));
  await expect(page.getByText('3 written and verified')).toBeVisible({ timeout: 60_000 });

  // Names follow what is set; a pattern without a number is not taken.
  await expect(page.getByText(/^01 Tides ch1\.mp3 … 03 Tides ch3\.mp3/)).toBeVisible();
  await page.getByLabel('First is the opening credits').press('Space');
  const pattern = page.getByLabel('File names');
  await pattern.fill('{title}');
  await expect(pattern).toHaveAttribute('aria-invalid', 'true');
  await pattern.fill('{number} {book} {title}');
  await pattern.press('Enter');
  await expect(page.getByText(/^00 Tides Opening credits\.mp3 … 02 Tides Tides ch3\.mp3/)).toBeVisible();
  await pressEnter(page.getByRole('button', { name: 'Undo' }));
  await expect(page.getByText(/^00 Opening credits\.mp3 … 02 Tides ch3\.mp3/)).toBeVisible();

  await pressEnter(page.getByRole('button', { name: 'Write the book' }));
  const zipLink = page.getByRole('link', { name: 'Download (ZIP)' });
  await expect(zipLink).toBeVisible({ timeout: 60_000 });
  const [download] = await Promise.all([page.waitForEvent('download'), zipLink.press('Enter')]);
  const zip = testInfo.outputPath('book.zip');
  await download.saveAs(zip);
  const names = await namesInZip(zip);
  for (const name of ['00 Opening credits.mp3', '02 Tides ch3.mp3', 'Tides.m4b', 'Tides.csv', 'Tides.pdf']) {
    expect(names).toContain(`Tides/${name}`);
  }

  // What is set anew is not what was verified.
  await page.getByLabel('Gain of Tides ch2, dB').press('ArrowUp');
  await expect(
    page.getByText('1 of 3 chapters has no verified file with the current settings: Tides ch2'),
  ).toBeVisible();
});

test('a record is put in order, heard and written, by keys alone', async ({ page, desk }) => {
  await startJob(page, desk, 'Sides');
  await takeInAll(page, tracks);
  await page.getByRole('link', { name: 'Line up' }).press('Enter');
  await page.getByRole('button', { name: 'New line-up' }).press('Enter');
  const dialog = page.getByRole('dialog', { name: 'New line-up' });
  await dialog.getByLabel('Name').fill('Both sides');
  await dialog.getByLabel('Side 1').press('Space');
  await dialog.getByLabel('Side 2').press('Space');
  await dialog.getByRole('button', { name: 'Make the line-up' }).press('Enter');
  const table = page.getByRole('table', { name: 'Programmes of Both sides, in order' });
  await expect(table.getByRole('rowheader')).toContainText(['Side 1', 'Side 2']);

  const mover = page.getByRole('button', { name: 'Move Side 1' });
  await mover.press('Space');
  await expect(page.getByText(/^Side 1.*position 1 of 2$/)).toBeAttached();
  await page.keyboard.press('ArrowDown');
  await expect(page.getByText('Side 1: position 2 of 2')).toBeAttached();
  await page.keyboard.press('Space');
  await expect(table.getByRole('rowheader')).toContainText(['Side 2', 'Side 1']);
  const gap = table.getByLabel('Gap after Side 2, seconds');
  await gap.fill('-75/75');
  await gap.press('Enter');
  await expect(page.getByText('last 5 s, overlap 1.00 s, first 5 s, as written')).toBeVisible();
  await page.getByRole('button', { name: 'Play the transition (T)' }).press('t');
  await page.getByRole('button', { name: 'Stop (T)' }).press('t');
  await pressEnter(page.getByRole('button', { name: /^Whole at the target/ }));
  await expect(page.getByText(/^◆ whole −|whole −23\.0 LUFS$/)).toBeVisible();
  await pressEnter(page.getByRole('button', { name: 'One file' }));
  await page.getByRole('button', { name: '4 files' }).press('Enter');
  await expect(page.getByRole('link', { name: 'Both sides.cue' })).toBeVisible();
});
