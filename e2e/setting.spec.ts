/** Setting: every step by its own control, versions, stacked specs, keys of one's own, charts, and a span through a codec. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { addDelivery } from './delivering';
import { type Desk, dropFiles, expect, startJob, test } from './desk';

const RATE = 48_000;
/** A second of nothing, six of sound, a second of nothing; the right channel softer. */
const sound = tone([{ seconds: 8, levelDbfs: -20 }], RATE, 440).map((x, n) => (n < RATE || n >= 7 * RATE ? 0 : x));
const WAV = wavOf([sound, sound.map((x) => 0.5 * x)]);

async function openDesk(page: Page, desk: Desk, name: string) {
  await startJob(page, desk, name);
  await dropFiles(page, [{ name: 'sound.wav', bytes: WAV }]);
  await page.getByRole('link', { name: 'sound' }).click();
  await expect(page.getByRole('slider', { name: /^Trace/ })).toBeVisible();
}

const step = (page: Page, name: string) => page.getByRole('button', { name: new RegExp(`^${name}:`) });
const saved = (page: Page) => expect(page.getByRole('status')).toHaveText('all saved');

test('each step is turned on and set, and says plainly what it does', async ({ page, desk }) => {
  await openDesk(page, desk, 'Steps');
  const integrated = page.getByRole('row', { name: /^Integrated/ });

  await step(page, 'Trim').click();
  const keep = page.getByRole('dialog', { name: 'Trim' });
  await keep.getByRole('button', { name: 'First to last sound' }).click();
  await expect(keep.getByLabel('Start')).toHaveValue('0:00.995');
  await expect(keep.getByLabel('End', { exact: true })).toHaveValue('0:07.005');
  await keep.getByLabel('Start').fill('2.0005');
  await page.keyboard.press('Enter');
  await keep.getByRole('button', { name: 'To zero crossings' }).click();
  await expect(keep.getByLabel('Start')).not.toHaveValue('0:02.001');
  await page.keyboard.press('Escape');
  await expect(step(page, 'Trim')).toContainText(/^Trim0:02\.000 – 0:07\.00\d$/);

  await step(page, 'Channels').click();
  await page.getByRole('radio', { name: 'Mono sum' }).click();
  await expect(page.getByText('Level of the sum').first()).toBeVisible();
  await page.getByRole('radio', { name: '−6 dB' }).click();
  await page.keyboard.press('Escape');
  await expect(step(page, 'Channels')).toContainText('Mono sum at −6 dB');
  await expect(page.getByText('measuring the trimmed part')).toBeHidden();
  // Both channels together are −22.9, the left one −23.7; three quarters of it are left.
  await expect(integrated).toContainText('−26.2');

  await page.getByRole('checkbox', { name: 'Padding on' }).check();
  await expect(step(page, 'Padding')).toContainText('0.5 s at start, 1 s at end');
  await step(page, 'Fades').click();
  const fades = page.getByRole('dialog', { name: 'Fades' });
  await fades.getByLabel('In', { exact: true }).fill('0.25');
  await page.keyboard.press('Enter');
  await fades.getByLabel('In shape').getByRole('radio', { name: 'Linear' }).click();
  await page.keyboard.press('Escape');
  await expect(step(page, 'Fades')).toContainText('in 0.25 s');

  await step(page, 'Limiter').click();
  const limiter = page.getByRole('dialog', { name: 'Limiter' });
  await limiter.getByLabel('Ceiling').fill('-2.5');
  await page.keyboard.press('Enter');
  await limiter.getByLabel('Look-ahead').fill('4');
  await page.keyboard.press('Enter');
  await limiter.getByLabel('Look-ahead').press('ArrowDown');
  await expect(limiter.getByLabel('Look-ahead')).toHaveValue('3.9 ms');
  await limiter.getByRole('radio', { name: 'Fixed' }).click();
  await limiter.getByLabel('Release time').press('ArrowUp');
  await expect(limiter.getByLabel('Release time')).toHaveValue('101 ms');
  await page.keyboard.press('Escape');
  await expect(step(page, 'Limiter')).toContainText('at −2.5 dBTP');
  await page.getByRole('checkbox', { name: 'Output gain on' }).check();
  await expect(step(page, 'Output gain')).toContainText('−0.10 dB');
  await step(page, 'Rate').click();
  await page.getByRole('radio', { name: '44.1 kHz' }).click();
  await page.keyboard.press('Escape');
  await expect(step(page, 'Rate')).toContainText('44.1 kHz, resampled');
  await expect(step(page, 'Fades')).toContainText('in 0.25 s');
  await page.getByRole('checkbox', { name: 'DC on' }).check();
  await saved(page);

  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page);
  await page.getByRole('checkbox', { name: /^Write/ }).check();
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  const row = page.getByRole('row', { name: /Write sound_ebu-r128_v1/ });
  await expect(row).toContainText('WAV 24-bit · 44.1 kHz');
  await expect(row).toContainText('sha256');
  // Predicted and written are the same to a hundredth.
  const [, promised, measured] = /(−\d+\.\d\d) → (−\d+\.\d\d) LUFS/.exec((await row.textContent()) ?? '') ?? [];
  const number = (text = '') => Number(text.replace('−', '-'));
  expect(Math.abs(number(promised) - number(measured))).toBeLessThanOrEqual(0.05);
});

test('versions are numbered when they were written, named, and gone back to; two starting points', async ({
  page,
  desk,
}) => {
  await openDesk(page, desk, 'Versions');
  await page.getByRole('button', { name: 'Premaster' }).click();
  await expect(page.getByRole('row', { name: /^True peak/ })).toContainText('−6.0');
  await saved(page);
  await page.getByRole('button', { name: /^v1/ }).click();
  await page.getByLabel('Name of v1').fill('For the mastering house');
  await page.keyboard.press('Enter');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Master', exact: true }).click();
  await expect(page.getByRole('list', { name: 'Verdict' })).toContainText('on target at −23.0 LUFS');
  await expect(page.getByRole('button', { name: /^v2/ })).toBeVisible();
  await page.getByRole('button', { name: /^v2/ }).click();
  await page.getByRole('button', { name: 'Go back' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: /^v1/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^True peak/ })).toContainText('−6.0');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('list', { name: 'Verdict' })).toContainText('on target at −23.0 LUFS');
  await page.reload();
  await expect(page.getByRole('list', { name: 'Verdict' })).toContainText('on target at −23.0 LUFS');
  await page.getByRole('button', { name: 'Redo' }).click();
  await expect(page.getByRole('row', { name: /^True peak/ })).toContainText('−6.0');
});

test('specs are stacked over one slide, and a link keeps them', async ({ page, desk }) => {
  await openDesk(page, desk, 'Stack');
  await page.getByRole('button', { name: 'compare with more specs' }).click();
  await page.getByRole('checkbox', { name: 'Music streaming −14' }).check();
  await page.getByRole('checkbox', { name: 'ATSC A/85' }).check();
  await page.keyboard.press('Escape');
  const rule = page.getByRole('region', { name: 'Rule' });
  await expect(rule).toContainText('Music streaming −14 −14.0 · −1.0 dBTP');
  await expect(rule).toContainText(/\d+\.\d dB of headroom at the target/);
  await page.reload();
  await expect(rule).toContainText('ATSC A/85 −24.0 · −2.0 dBTP');
  await page.getByRole('button', { name: 'Charts' }).click();
  const playback = page.getByRole('table', { name: 'How this version plays where loudness is normalised' });
  await expect(playback.getByRole('row').nth(1)).toContainText('EBU R 128');
  await expect(playback.getByRole('row').nth(3)).toContainText(/Music streaming|ATSC/);
});

test('a key is changed, and works; all of them go back', async ({ page, desk }) => {
  await openDesk(page, desk, 'Keys');
  const heading = page.getByRole('heading', { name: 'sound' });
  const slider = page.getByRole('slider', { name: 'Gain' });
  await heading.click();
  await page.keyboard.press('?');
  await page.getByRole('button', { name: /^6 dB of headroom: H/ }).click();
  await page.keyboard.press('w');
  await expect(page.getByRole('button', { name: /^6 dB of headroom: W/ })).toBeVisible();
  await page.keyboard.press('Escape');
  await heading.click();
  await page.keyboard.press('h');
  await expect(slider).toHaveAttribute('aria-valuenow', '0');
  await page.keyboard.press('w');
  await expect(slider).not.toHaveAttribute('aria-valuenow', '0');
  await page.reload();
  await page.getByRole('button', { name: 'Keys', exact: true }).click();
  await expect(page.getByRole('button', { name: /^6 dB of headroom: W/ })).toBeVisible();
  await page.getByRole('button', { name: 'Reset all keys' }).click();
  await expect(page.getByRole('button', { name: /^6 dB of headroom: H/ })).toBeVisible();
});

test('charts are saved as pictures and tables', async ({ page, desk }) => {
  await openDesk(page, desk, 'Charts');
  await page.keyboard.press('g');
  await page.getByRole('tab', { name: 'Short-term history' }).click();
  const save = async (name: string) => {
    const waiting = page.waitForEvent('download');
    await page.getByRole('tabpanel').getByRole('button', { name }).click();
    const path = join(desk.scratch, name);
    await (await waiting).saveAs(path);
    return readFileSync(path);
  };
  expect((await save('Save as PNG')).subarray(1, 4).toString()).toBe('PNG');
  expect((await save('Save as SVG')).toString()).toMatch(/^<svg[^>]*xmlns="http:\/\/www.w3.org\/2000\/svg"/);
  const csv = (await save('Save as CSV')).toString();
  expect(csv).toMatch(/^second,before LUFS,after LUFS\r\n0,,/);
  expect(csv).toContain('\r\n5,-');
});

test('a span is heard through a codec', async ({ page, desk }) => {
  await openDesk(page, desk, 'Codec');
  await page.getByRole('slider', { name: /^Trace/ }).focus();
  await page.keyboard.press(']');
  await page.getByRole('heading', { name: 'sound' }).click();
  await page.getByRole('slider', { name: /^Trace/ }).click({ position: { x: 300, y: 50 } });
  await page.keyboard.press('[');
  const span = page.getByRole('group', { name: 'Span' });
  await span.getByLabel('Span start').fill('2');
  await page.keyboard.press('Enter');
  const answered = page.waitForResponse(/\/lossy\?/);
  const codecs = span.getByRole('combobox', { name: 'Hear through codec' });
  await expect(codecs).toContainText('codec …');
  await codecs.click();
  await page.getByRole('option', { name: 'MP3 128 kbit/s' }).click();
  expect((await answered).status()).toBe(200);
  await expect(page.getByRole('combobox', { name: 'Heard' })).toContainText('through MP3 128 kbit/s');
  await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
  const live = page.getByRole('group', { name: 'Live readings' }).locator('[data-reading="M"]');
  await expect.poll(async () => Number(await live.getAttribute('data-value'))).toBeLessThan(-15);
  await expect.poll(async () => Number(await live.getAttribute('data-value'))).toBeGreaterThan(-25);
});
