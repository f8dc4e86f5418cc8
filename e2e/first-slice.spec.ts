/** From an empty data folder to a delivered file, in the real interface. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { hashFile } from '@/workers/node/hash-file';
import { measureFile } from '@/workers/node/measure-file';
import { ffmpegLoudness } from '../tests/fixtures/command';
import { ffmpeg } from '../tests/fixtures/ffmpeg';
import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { addDelivery } from './delivering';
import { dropFiles, expect, startJob, test } from './desk';

const RATE = 48_000;
const song = tone(
  [
    { seconds: 5, levelDbfs: -20 },
    { seconds: 6, levelDbfs: -9 },
    { seconds: 4, levelDbfs: -16 },
  ],
  RATE,
  331,
);
const SONG = wavOf([song, song], { bits: 16 });
const peaky = tone([{ seconds: 6, levelDbfs: -34 }], RATE, 440);
peaky[100_000] = 0.8;
const PEAKY = wavOf([peaky]);

test('drop a file, see its readings, meet the target, hand over, download: the bytes are what was promised', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Evening programme');
  await dropFiles(page, [{ name: 'night train.wav', bytes: SONG }]);
  const row = page.getByRole('row', { name: /night train/ });
  await expect(row).toContainText('WAV · 16-bit · 48 kHz');
  await expect(row).toContainText(/−\d+\.\d LUFS/);

  await row.getByRole('link', { name: 'night train' }).click();
  const verdict = page.getByRole('list', { name: 'Verdict' });
  await expect(verdict).toContainText('LU over');
  await page.getByRole('button', { name: /Meet the target/ }).click();
  await expect(verdict).toContainText('on target at −23.0 LUFS');
  await expect(page.getByRole('status')).toHaveText('all saved');
  await expect(page.getByRole('heading', { name: 'Treatment' }).locator('..')).toContainText('v1');

  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page);
  const sheetRow = page.getByRole('row', { name: /night-train_ebu-r128_v1/ });
  await expect(sheetRow).toContainText('forecast');
  await expect(sheetRow).toContainText('−23.00 → … LUFS');
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  await expect(sheetRow).toContainText('verified');
  await expect(sheetRow).toContainText('−23.00 → −23.00 LUFS');
  const waiting = page.waitForEvent('download');
  await page.getByRole('link', { name: /^Download/ }).click();
  const download = await waiting;
  expect(download.suggestedFilename()).toBe('night-train_ebu-r128_v1.wav');

  const path = join(desk.scratch, 'downloaded.wav');
  await download.saveAs(path);
  const { report } = await measureFile(path);
  expect(report.format).toMatchObject({ bitDepth: 24, sampleRateHz: RATE, frames: 15 * RATE, channels: 2 });
  expect(Math.abs((report.readings.integratedLufs ?? Number.NaN) + 23)).toBeLessThan(0.01);
  expect(report.readings.truePeakDbtp).toBeLessThanOrEqual(-1);
  expect(Math.abs(ffmpegLoudness(path).integratedLufs + 23)).toBeLessThanOrEqual(0.1);
  await expect(page.getByText(`sha256 ${(await hashFile(path)).slice(0, 16)}`)).toBeVisible();
});

test('the rule is dragged and driven by keys, the gain can be typed, and all of it survives a reload', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'By hand');
  await dropFiles(page, [{ name: 'song.wav', bytes: SONG }]);
  await page.getByRole('link', { name: 'song' }).click();
  const slider = page.getByRole('slider', { name: 'Gain' });
  await expect(slider).toHaveAttribute('aria-valuenow', '0');

  await slider.focus();
  await page.keyboard.press('ArrowDown');
  await page.keyboard.press('ArrowDown');
  await expect(slider).toHaveAttribute('aria-valuenow', '-0.2');
  await page.keyboard.press('Shift+ArrowUp');
  await expect(slider).toHaveAttribute('aria-valuenow', '0.8');
  await page.keyboard.press('h');
  await expect(slider).toHaveAttribute('aria-valuetext', /dB$/);
  const held = Number(await slider.getAttribute('aria-valuenow'));
  expect(held).toBeCloseTo(-6 + 9, 1);
  await page.keyboard.press('0');
  await expect(slider).toHaveAttribute('aria-valuenow', '0');

  const box = (await slider.boundingBox()) as NonNullable<Awaited<ReturnType<typeof slider.boundingBox>>>;
  await page.mouse.move(box.x + box.width / 2, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width / 2 - 60, box.y + box.height / 2, { steps: 6 });
  const integrated = page.getByRole('row', { name: /^Integrated/ });
  const whileDragging = await integrated.textContent();
  await page.mouse.move(box.x + box.width / 2 - 120, box.y + box.height / 2, { steps: 6 });
  await expect(integrated).not.toHaveText(whileDragging as string);
  await page.mouse.up();
  expect(Number(await slider.getAttribute('aria-valuenow'))).toBeLessThan(-5);

  await page.getByLabel('gain', { exact: true }).fill('-4,25');
  await page.keyboard.press('Enter');
  await expect(slider).toHaveAttribute('aria-valuenow', '-4.25');
  await page.getByLabel('gain', { exact: true }).fill('loud');
  await page.keyboard.press('Enter');
  await expect(slider).toHaveAttribute('aria-valuenow', '-4.25');
  await expect(page.getByRole('status')).toHaveText('all saved');
  await page.reload();
  await expect(slider).toHaveAttribute('aria-valuenow', '-4.25');
});

test('where the ceiling stops the gain, the verdict says by how much, and the overs are listed', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Peaks');
  await dropFiles(page, [{ name: 'peaky.wav', bytes: PEAKY }]);
  await page.getByRole('link', { name: 'peaky' }).click();
  const verdict = page.getByRole('list', { name: 'Verdict' });
  await page.getByRole('button', { name: /Peak at the ceiling/ }).click();
  await expect(verdict).toContainText(/the ceiling stops the gain \d+\.\d LU short/);
  await expect(verdict).toContainText('LU under');
  await page.getByRole('tab', { name: 'Overs' }).click();
  await expect(page.getByText('Nothing over −1.0 dBTP')).toBeVisible();

  await page.getByRole('button', { name: /Meet the target/ }).click();
  await expect(verdict).toContainText(/peak \d+\.\d dB over/);
  const over = page.getByRole('button', { name: /0:02\.083/ });
  await over.click();
  await expect(over).toHaveAttribute('aria-pressed', 'true');

  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page);
  // What is predicted to miss is written only where somebody ticks it.
  await expect(page.getByRole('list', { name: 'Forecast' })).toContainText('over');
  await page.getByRole('checkbox', { name: /^Write/ }).check();
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  await expect(page.getByRole('alert').filter({ hasText: 'would clip it' })).toBeVisible();
  await expect(page.getByRole('link', { name: /^Download/ })).toHaveCount(0);
});

test('another spec can be chosen, and the address keeps it', async ({ page, desk }) => {
  await startJob(page, desk, 'Specs');
  await dropFiles(page, [{ name: 'song.wav', bytes: SONG }]);
  await page.getByRole('link', { name: 'song' }).click();
  // Take in has such a choice too.
  await expect(page.getByRole('slider', { name: 'Gain' })).toBeVisible();
  await page.getByRole('combobox', { name: 'Spec' }).click();
  await page.getByRole('option', { name: /Music streaming/ }).click();
  await expect(page).toHaveURL(/spec=streaming-music/);
  await page.keyboard.press('t');
  await expect(page.getByRole('list', { name: 'Verdict' })).toContainText('on target at −14.0 LUFS');
});

test('bad files are refused in words, one by one, and good ones beside them are taken in', async ({ page, desk }) => {
  await startJob(page, desk, 'Mixed bag');
  await dropFiles(page, [
    { name: 'notes.wav', bytes: Buffer.from('call the studio back') },
    { name: 'nothing.wav', bytes: Buffer.alloc(0) },
    { name: 'good.wav', bytes: SONG },
    { name: 'copy of good.wav', bytes: SONG },
  ]);
  await expect(
    page.getByRole('alert').filter({ hasText: 'notes.wav is not a sound file that can be read' }),
  ).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: 'nothing.wav is empty' })).toBeVisible();
  await expect(page.getByText(/is already in this job, as/)).toBeVisible();
  await expect(page.getByRole('row', { name: /LUFS/ })).toHaveCount(1);
  const close = page.getByRole('button', { name: 'Close' });
  for (let left = await close.count(); left > 0; left--) await close.first().click();
  await expect(page.getByRole('heading', { name: 'Arriving' })).toHaveCount(0);
});

test('several files can be chosen at once; a file on disk keeps its bytes', async ({ page, desk }) => {
  await startJob(page, desk, 'Chosen');
  const paths = ['a.wav', 'b.wav'].map((name) => join(desk.scratch, name));
  writeFileSync(paths[0] as string, SONG);
  writeFileSync(paths[1] as string, PEAKY);
  await page.getByLabel('Files to take in').first().setInputFiles(paths);
  await expect(page.getByRole('row', { name: /LUFS/ })).toHaveCount(2);
  expect(readFileSync(paths[0] as string).equals(SONG)).toBe(true);
});

test('the theme is switched and kept', async ({ page, desk }) => {
  await page.goto(desk.base);
  await page.getByRole('button', { name: /Theme: system/ }).click();
  await page.getByRole('button', { name: /Theme: light/ }).click();
  await page.reload();
  await expect(page.locator('html')).toHaveAttribute('data-theme', 'dark');
  await expect(page.getByRole('button', { name: /Theme: dark/ })).toBeVisible();
});

test('measuring and writing can be cancelled, and done after all', async ({ page, desk }) => {
  // Decoding takes a while, even where measuring is a matter of moments.
  const path = join(desk.scratch, 'long.flac');
  const noise = `anoisesrc=r=${RATE}:d=2400:a=0.01:s=1`;
  ffmpeg('-f', 'lavfi', '-i', noise, '-c:a', 'flac', '-sample_fmt', 's16', '-compression_level', '0', path);
  await startJob(page, desk, 'Second thoughts');
  await page.getByLabel('Files to take in').first().setInputFiles(path);
  await expect(page.getByRole('progressbar', { name: 'Taking in long.flac' })).toBeVisible();

  const row = page.getByRole('row', { name: /long/ });
  await expect(row).toContainText(/measuring \d+ % · \d+×/, { timeout: 60_000 });
  await row.getByRole('button', { name: 'Cancel' }).click();
  await expect(row).toContainText('cancelled');
  await row.getByRole('button', { name: 'Try again' }).click();
  await expect(row).toContainText('LUFS', { timeout: 60_000 });

  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page);
  await page.getByRole('checkbox', { name: /^Write/ }).check();
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  const delivery = page.getByRole('row', { name: /long_ebu-r128_v1/ });
  await expect(delivery).toContainText(/writing \d+ % · \d+×/);
  await delivery.getByRole('button', { name: 'Cancel' }).click();
  await expect(delivery).toContainText('cancelled');
  await expect(page.getByRole('link', { name: /Download/ })).toHaveCount(0);
  await delivery.getByRole('button', { name: 'Try again' }).click();
  await expect(page.getByRole('link', { name: /Download/ })).toBeVisible({ timeout: 60_000 });
});

test('an upload can be cancelled, and leaves nothing', async ({ page, desk }) => {
  await startJob(page, desk, 'Not this one');
  // Held back on the way, so that there is time to cancel it.
  await page.route('**/sources?name=**', () => undefined);
  await dropFiles(page, [{ name: 'wrong mix.wav', bytes: SONG }]);
  await page.getByRole('button', { name: 'Cancel' }).click();
  await expect(page.getByRole('heading', { name: 'Arriving' })).toHaveCount(0);
  await expect(page.getByText('Drop mixes anywhere on this page')).toBeVisible();
});

test('each channel’s peaks are told with their times', async ({ page, desk }) => {
  await startJob(page, desk, 'Two sides');
  const left = song.map((x) => x / 2);
  left[50_000] = 0.9;
  await dropFiles(page, [{ name: 'sides.wav', bytes: wavOf([left, song]) }]);
  await page.getByRole('link', { name: 'sides' }).click();
  await page.getByRole('button', { name: 'per channel' }).click();
  const first = page.getByRole('row', { name: /^L / });
  await expect(first).toContainText('−0.9 dBFS');
  await expect(first).toContainText('0:01.042');
});

test('a page that is not there says so and leads back', async ({ page, desk }) => {
  await page.goto(`${desk.base}/jobs/nowhere/take-in`);
  await page.getByRole('link', { name: 'Go to the list of jobs' }).click();
  await expect(page.getByRole('heading', { name: 'Jobs' })).toBeVisible();
});
