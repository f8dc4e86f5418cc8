/** Through outboard gear in the browser: a pass through the simulated one is what was sent, and one that never comes back is told. */
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { musicLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { browserWithInput, type Desk, dropFiles, expect, startJob, test } from './desk';

const RATE_HZ = 48_000;
const SECONDS = 6;
const mix = () => musicLike().map((samples) => samples.slice(14 * RATE_HZ, (14 + SECONDS) * RATE_HZ));

/** Opens the dialog over the desk of a mix that was just taken in. */
async function openOutboard(page: Page, desk: Desk, job: string) {
  await startJob(page, desk, job);
  await dropFiles(page, [{ name: 'mix.wav', bytes: wavOf(mix(), { bits: 32, float: true }) }]);
  await page.getByRole('link', { name: 'mix' }).click();
  await page.getByRole('button', { name: 'Outboard' }).click();
  return page.getByRole('dialog', { name: 'Through outboard gear' });
}

test('a pass through simulated gear comes back to the frame, is a programme, and is heard equally loud', async ({
  page,
  desk,
}) => {
  test.slow();
  const dialog = await openOutboard(page, desk, 'Outboard');
  await dialog.getByRole('combobox', { name: 'Comes back at' }).click();
  await page.getByRole('option', { name: 'Simulated gear' }).click();
  for (const [label, value] of [
    ['gain (dB)', '-6'],
    ['delay (ms)', '31,25'],
    ['noise (dBFS)', '-120'],
  ] as const) {
    await dialog.getByLabel(label).fill(value);
    await dialog.getByLabel(label).press('Enter');
  }
  // An output that is not there is told.
  await dialog.getByLabel('from output').fill('31');
  await dialog.getByRole('button', { name: 'Start (0:06)' }).click();
  await expect(dialog.getByRole('alert')).toContainText(/this output has \d+ channels only/);
  await dialog.getByLabel('from output').fill('1');
  await dialog.getByLabel('from output').press('Enter');
  // Given up, it leaves nothing.
  await dialog.getByRole('button', { name: 'Start (0:06)' }).click();
  await expect(dialog.getByText('Keep this window open.')).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(dialog).toBeVisible();
  await dialog.getByRole('button', { name: 'Stop' }).click();
  await expect(dialog.getByRole('list', { name: 'Passes' })).toHaveCount(0);

  // However often it is pressed, it is one pass.
  const pass = dialog.getByRole('listitem');
  const returned = dialog.locator('[data-level="returned"]').filter({ hasText: 'dBFS' });
  const tooSlow = dialog.getByRole('alert').filter({ hasText: /not there in time|did not arrive here/ });
  // A machine with no time for it ends the pass, and says so: it is started again.
  for (let tries = 0; tries < 3 && (await pass.count()) === 0; tries++) {
    await dialog.getByRole('button', { name: 'Start (0:06)' }).evaluate((button: HTMLButtonElement) => {
      button.click();
      button.click();
    });
    await expect(returned.or(tooSlow)).toBeVisible();
    await expect(pass.or(tooSlow)).toBeVisible({ timeout: 45_000 });
  }
  await expect(pass).toContainText('31.3 ms later (1500 frames), 6.0 dB quieter', { timeout: 45_000 });
  await expect(pass).not.toContainText('○');

  const programmeId = new URL(page.url()).searchParams.get('programme') as string;
  const { passes } = (await (await page.request.get(`${desk.base}/api/programmes/${programmeId}`)).json()) as {
    passes: { returned: { sha256: string; integratedLufs: number } }[];
  };
  const sha256 = passes[0]?.returned.sha256 ?? '';
  // FFmpeg reads what came back: what was sent, 6 dB down, but for the noise of the gear.
  const path = join(desk.data(), 'sources', sha256);
  const raw = execFileSync('ffmpeg', ['-v', 'error', '-i', path, '-f', 'f32le', '-'], { maxBuffer: 1 << 26 });
  const sent = mix();
  expect(raw.length).toBe(2 * 4 * SECONDS * RATE_HZ);
  let most = 0;
  for (let n = 0; n < SECONDS * RATE_HZ; n++) {
    for (const [c, samples] of sent.entries()) {
      const wanted = (samples[n] ?? Number.NaN) * 10 ** (-6 / 20);
      most = Math.max(most, Math.abs(raw.readFloatLE(4 * (2 * n + c)) - wanted));
    }
  }
  expect(most).toBeLessThan(GEAR_TOLERANCE);

  // It is heard beside the rest, which is turned down to it.
  await page.keyboard.press('Escape');
  await page.getByRole('combobox', { name: 'Heard' }).click();
  await page.getByRole('option', { name: /^pass 1 \(/ }).click();
  await page.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('Space');
  await expect(page.locator('[data-reading="M"]')).toHaveAttribute('data-value', /^-\d/);
  await page.keyboard.press('Space');

  await page.getByRole('button', { name: 'Outboard' }).click();
  await page.getByRole('dialog').getByRole('link', { name: 'Open' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'mix (pass 1)' })).toBeVisible();
});

/** Chromium's delay is a number of seconds, of 32 bits: between two frames by some 1e-4 of one. */
const GEAR_TOLERANCE = 2e-4;

test('what comes back but is not what was sent is refused in words, and can be removed', async ({ desk }) => {
  const other = join(desk.scratch, 'other.wav');
  const elsewhere = musicLike().map((samples) =>
    samples
      .slice(0, 4 * RATE_HZ)
      .map((x) => 0.5 * x)
      .reverse(),
  );
  writeFileSync(other, wavOf(elsewhere, { bits: 16, sampleRateHz: RATE_HZ }));
  const browser = await browserWithInput(other);
  try {
    const page = await browser.newPage();
    const dialog = await openOutboard(page, desk, 'No return');
    await dialog.getByRole('button', { name: 'Start (0:06)' }).click();
    await expect(dialog.locator('[data-level="returned"]')).toContainText('dBFS');
    await expect(dialog.getByRole('alert')).toContainText('Nothing of what was sent was found in what came back', {
      timeout: 45_000,
    });
    await dialog.getByRole('button', { name: 'Remove' }).click();
    await expect(dialog.getByRole('list', { name: 'Passes' })).toHaveCount(0);
    await page.keyboard.press('Escape');
    await expect(dialog).toBeHidden();
    await expect(page.getByRole('link', { name: /pass/ })).toHaveCount(0);
  } finally {
    await browser.close();
  }
});
