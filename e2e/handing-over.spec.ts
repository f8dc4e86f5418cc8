/** The hand-over sheet as it is worked with: rows, sets, formats, names, progress, and what is decided about a miss. */
import { join } from 'node:path';
import { measureFile } from '@/workers/node/measure-file';
import { musicLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { addDelivery } from './delivering';
import { dropFiles, expect, startJob, test } from './desk';

const WAV = wavOf(musicLike().map((samples) => samples.slice(8 * 48_000, 24 * 48_000).map((x) => 0.7 * x)));
const QUIET = wavOf(musicLike().map((samples) => samples.slice(0, 10 * 48_000).map((x) => 0.05 * x)));

test('six deliveries are predicted, named, written at once, and measured beside what was predicted', async ({
  page,
  desk,
}) => {
  // Six files are written, coded and measured.
  test.slow();
  await startJob(page, desk, 'Release');
  await dropFiles(page, [{ name: 'overture.wav', bytes: WAV }]);
  await page.getByRole('link', { name: 'overture' }).click();
  await page.getByRole('link', { name: 'Hand over' }).click();
  await expect(page.getByText('No deliveries yet')).toBeVisible();
  await addDelivery(page, { levels: 'gain only' });
  await addDelivery(page, {
    spec: /Podcast, stereo/,
    file: 'MP3',
    rate: '44.1 kHz',
    bitRate: '192 kbit/s',
    levels: 'gain and limiter',
  });
  await addDelivery(page, { spec: /Music streaming/, file: 'FLAC', levels: 'gain and limiter' });
  await addDelivery(page, { spec: /AES TD1008, speech/, file: 'Opus', mode: 'variable', levels: 'gain and limiter' });
  await addDelivery(page, { spec: /EBU R 128/, channels: 'split', depth: '16 bit', levels: 'gain only' });
  // The spec itself asks for 16 bits at 44.1 kHz.
  await addDelivery(page, { spec: /CD master/, levels: 'gain only' });
  const rows = page.getByRole('table', { name: 'Deliveries' }).locator('tr[data-standing]');
  await expect(rows).toHaveCount(6);
  await expect(rows.filter({ hasText: 'forecast ◆' })).toHaveCount(6, { timeout: 40_000 });
  await expect(rows.nth(1)).toContainText('MP3 192 constant · 44.1 kHz');
  await expect(rows.nth(5)).toContainText('WAV 16-bit · 44.1 kHz');

  await page.getByRole('button', { name: /^named/ }).click();
  const naming = page.getByRole('dialog', { name: 'File names' });
  await naming.getByLabel('Template').fill('{title}-{spec}-{rate}-{nothing}');
  await expect(naming.getByRole('status')).toHaveText('overture-ebu-r128-48k.wav');
  await expect(naming.getByRole('alert')).toContainText('{nothing} is unknown');
  await naming.getByLabel('Template').fill('{title}_{spec}_{rate}_{format}');
  await naming.getByRole('button', { name: 'Save' }).click();
  await expect(rows.nth(1)).toContainText('overture_podcast-stereo_44k1_192k.mp3');

  await page.getByRole('button', { name: 'Write 6 deliveries' }).click();
  await expect(page.getByText(/under way/)).toBeVisible();
  await expect(rows.filter({ hasText: 'verified' })).toHaveCount(6, { timeout: 120_000 });
  await expect(rows.nth(0)).toContainText('−23.00 → −23.00 LUFS');
  await expect(page.getByRole('button', { name: 'Nothing ticked' })).toBeDisabled();
  for (const [name, expected] of [
    ['overture_streaming-music_48k_24bit.flac', undefined],
    ['overture_cd-master_44k1_16bit.wav', { bitDepth: 16, sampleRateHz: 44_100 }],
    ['overture_ebu-r128_48k_16bit.R.wav', { channels: 1, bitDepth: 16 }],
  ] as const) {
    const waiting = page.waitForEvent('download');
    await page.getByRole('link', { name: `Download ${name}` }).click();
    const download = await waiting;
    expect(download.suggestedFilename()).toBe(name);
    const path = join(desk.scratch, name);
    await download.saveAs(path);
    if (expected) expect((await measureFile(path)).report.format).toMatchObject(expected);
  }

  // Kept as a template, and applied to another programme.
  await page.getByRole('button', { name: 'Templates' }).click();
  await page.getByLabel('Save the rows of this programme as').fill('Everything');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await dropFiles(page, [{ name: 'interlude.wav', bytes: QUIET }]);
  await expect(page.getByRole('heading', { name: 'overture' })).toBeVisible();
  await page.getByRole('combobox', { name: 'Programme' }).click();
  await page.getByRole('option', { name: 'interlude' }).click();
  await expect(page.getByRole('heading', { name: 'interlude' })).toBeVisible();
  await page.getByRole('button', { name: 'Templates' }).click();
  await page.getByRole('button', { name: /^Everything/ }).click();
  await expect(rows).toHaveCount(6);
  await page.getByRole('combobox', { name: 'Programme' }).click();
  await page.getByRole('option', { name: 'All 2 programmes' }).click();
  await expect(rows).toHaveCount(12);
  await expect(rows.first()).toContainText('overture');
});

test('a miss is never handed over in silence: accepted with a reason, discarded, or solved again', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Misses');
  await dropFiles(page, [{ name: 'piece.wav', bytes: WAV }]);
  await page.getByRole('link', { name: 'piece' }).click();
  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page);
  const row = page.locator('tr[data-standing]').first();
  await expect(row).toContainText('→ … LUFS');
  await page.getByRole('checkbox', { name: /^Write piece/ }).check();
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  const miss = page.getByRole('region', { name: /misses its spec/ });
  await expect(miss).toContainText(/LU over/);
  await miss.getByRole('button', { name: /Accept with a reason/ }).click();
  await miss.getByLabel('Reason for accepting it').fill('The station asked for it so');
  await miss.getByRole('button', { name: 'Accept' }).click();
  await expect(row).toContainText('“The station asked for it so”');

  await page.getByRole('checkbox', { name: /^Write piece/ }).check();
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  await miss.getByRole('button', { name: 'Discard the file' }).click();
  await expect(page.getByRole('table', { name: 'Earlier files' })).toContainText('discarded');
  await expect(row).toContainText('“The station asked for it so”');

  await page.getByRole('checkbox', { name: /^Write piece/ }).check();
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  await miss.getByRole('button', { name: 'Recalculate and rewrite' }).click();
  await expect(row).toContainText('verified');
  await expect(row).toContainText('gain only');
  await expect(row).toContainText('→ −23.00 LUFS');
});

test('what can not be is told while it is chosen and on the sheet, and the nearest is taken', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Nearest');
  await dropFiles(page, [{ name: 'piece.wav', bytes: QUIET }]);
  await page.getByRole('link', { name: 'piece' }).click();
  await page.getByRole('link', { name: 'Hand over' }).click();
  await page.getByRole('button', { name: 'Add a delivery' }).first().click();
  const dialog = page.getByRole('dialog', { name: 'Add a delivery' });
  await dialog.getByRole('combobox', { name: 'File' }).click();
  await page.getByRole('option', { name: 'Opus' }).click();
  await dialog.getByRole('combobox', { name: 'Rate', exact: true }).click();
  await page.getByRole('option', { name: '44.1 kHz' }).click();
  await expect(dialog.getByRole('alert')).toContainText('Opus is not written at 44.1 kHz.');
  await expect(dialog.getByRole('button', { name: 'Add the row' })).toBeDisabled();
  await dialog.getByRole('button', { name: 'Use at 48 kHz' }).click();
  await dialog.getByRole('button', { name: 'Add the row' }).click();
  const row = page.locator('tr[data-standing]').first();
  await expect(row).toContainText('Opus 128 variable · 48 kHz');
  await page.getByRole('button', { name: /^Remove .* from the sheet/ }).click();
  await expect(page.getByText('No deliveries yet')).toBeVisible();
});

test('a spec is copied, changed in versions, compared, kept as JSON and brought in again', async ({ page, desk }) => {
  await page.goto(`${desk.base}/specs?spec=ebu-r128`);
  await expect(page.getByRole('table')).toContainText('−23.0 LUFS ±0.5 LU');
  await page.getByRole('button', { name: 'Make a copy' }).click();
  await expect(page.getByRole('heading', { name: 'EBU R 128, copy' })).toBeVisible();
  await page.getByRole('button', { name: 'Edit' }).click();
  await page.getByLabel('Name').fill('Night station');
  await page.getByLabel('Ceiling, dB', { exact: true }).fill('−3');
  await page.getByLabel('Tail, at least').fill('1,5');
  await page.getByRole('button', { name: 'Save as version 2' }).click();
  await expect(page.getByRole('table')).toContainText('1.5 s or more');
  await page.getByRole('combobox', { name: 'Compare with' }).click();
  await page.getByRole('option', { name: 'version 1' }).click();
  await expect(page.getByRole('row', { name: /Ceiling/ })).toContainText('true peak −3.0 dBTPtrue peak −1.0 dBTP');
  await expect(page.getByRole('row', { name: /Loudness/ })).toContainText('same');
  const waiting = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export JSON' }).click();
  const path = join(desk.scratch, 'spec.json');
  await (await waiting).saveAs(path);
  await page.getByRole('button', { name: 'Archive' }).click();
  await expect(page.getByRole('link', { name: 'Night station' })).toHaveCount(0);
  await page.getByLabel('A spec to import').setInputFiles(path);
  await expect(page.getByRole('heading', { name: 'Night station' })).toBeVisible();
  await expect(page.getByText(/^version 3/)).toBeVisible();
});
