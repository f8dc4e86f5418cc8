/** Where the ceiling stops the gain: the ways on, chosen by mouse and by key, and what is then written. */
import { join } from 'node:path';
import { measureFile } from '@/workers/node/measure-file';
import { addDelivery, handOver } from './delivering';
import { dropFiles, expect, startJob, test } from './desk';
import { BURSTS } from './material';

test('the ways on are offered with their numbers; one is chosen, written, and lands where it was forecast', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Options');
  await dropFiles(page, [{ name: 'bursts.wav', bytes: BURSTS }]);
  await page.getByRole('link', { name: 'bursts' }).click();
  // Take in has such a choice too.
  await expect(page.getByRole('slider', { name: 'Gain' })).toBeVisible();
  await page.getByRole('combobox', { name: 'Spec' }).click();
  await page.getByRole('option', { name: /Music streaming/ }).click();

  const ways = page.getByRole('list', { name: 'Options' });
  await expect(ways.getByRole('button')).toHaveCount(3);
  await expect(ways.getByRole('button', { name: /Gain only/ })).toContainText(/LU short, no limiting/);
  await expect(ways.getByRole('button', { name: /Limit by up to 3 dB/ })).toContainText(
    /LU short, limits by up to 3\.0 dB/,
  );
  const verdict = page.getByRole('list', { name: 'Verdict' });

  await ways.getByRole('button', { name: /Limit by up to 3 dB/ }).click();
  await expect(verdict).toContainText('LU under');
  await expect(verdict).not.toContainText('peak');
  const limiter = page.getByRole('checkbox', { name: 'Limiter on' });
  await expect(limiter).toBeChecked();
  await page.getByRole('heading', { name: 'bursts' }).click();
  await page.keyboard.press('3');
  await expect(verdict).toContainText('on target at −14.0 LUFS');
  await expect(ways.getByRole('button', { name: /Reach the target/ })).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('status')).toHaveText('all saved');
  // The list beside tells the same.
  await expect(page.getByRole('link', { name: 'bursts' }).getByRole('img', { name: 'inside' })).toBeVisible();
  await page.reload();
  await expect(verdict).toContainText('on target at −14.0 LUFS');

  await handOver(page);
  const row = page.getByRole('row', { name: /_streaming-music_/ });
  await expect(row).toContainText('verified');
  await expect(row).toContainText(/\d+\.\d dB/);
  const waiting = page.waitForEvent('download');
  await page.getByRole('link', { name: /^Download/ }).click();
  const path = join(desk.scratch, 'limited.wav');
  await (await waiting).saveAs(path);
  const { readings } = (await measureFile(path)).report;
  expect(Math.abs((readings.integratedLufs ?? Number.NaN) + 14)).toBeLessThanOrEqual(0.05);
  expect(readings.truePeakDbtp).toBeLessThanOrEqual(-1);
});

test('on the hand-over a way is chosen too, and a limiter can be turned off again', async ({ page, desk }) => {
  await startJob(page, desk, 'Hand over ways');
  await dropFiles(page, [{ name: 'bursts.wav', bytes: BURSTS }]);
  await page.getByRole('link', { name: 'bursts' }).click();
  await page.getByRole('link', { name: 'Hand over' }).click();
  // Nothing is limited that nobody chose: as it is set, and by gain alone, it stays short.
  await addDelivery(page, { spec: /Music streaming/, levels: 'gain only' });
  await expect(page.getByRole('row', { name: /gain only/ })).toContainText(/LU under/);
  await addDelivery(page, { spec: /Music streaming/, levels: 'gain and limiter' });
  const limited = page.getByRole('row', { name: /gain and limiter, up to 3 dB/ });
  await expect(limited).toContainText(/−1\d\.\d\d → … LUFS/);
  await page
    .getByRole('button', { name: /^Change the row of .*streaming/ })
    .last()
    .click();
  const dialog = page.getByRole('dialog');
  await dialog.getByRole('combobox', { name: 'Reduction allowed' }).click();
  await page.getByRole('option', { name: 'up to 12 dB' }).click();
  await dialog.getByRole('button', { name: 'Save the row' }).click();
  await expect(page.getByRole('row', { name: /gain and limiter, up to 12 dB/ })).toContainText(/−14\.0\d → … LUFS/);
});
