/** What the measurement engine gives to the desk: readings at once, places to listen to, and layouts by hand. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ffmpegLoudness } from '../tests/fixtures/command';
import { decodedByFfmpeg } from '../tests/fixtures/ffmpeg';
import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { dropFiles, expect, startJob, test } from './desk';

const RATE = 48_000;

test('a four-minute song has its readings soon after it was chosen', async ({ page, desk }) => {
  const part = tone([{ seconds: 10, levelDbfs: -14 }], RATE, 220);
  const song = new Float32Array(24 * part.length);
  for (let i = 0; i < 24; i++) song.set(part, i * part.length);
  const path = join(desk.scratch, 'long song.wav');
  writeFileSync(path, wavOf([song, song], { bits: 16 }));
  await startJob(page, desk, 'Speed');
  const chosenAtMs = performance.now();
  await page.locator('input[type=file]').first().setInputFiles(path);
  // Seen as soon as it is drawn: an expectation would look again every half second only.
  const row = page.getByRole('row', { name: /long song/ });
  await row
    .getByText(/−\d+\.\d LUFS/)
    .first()
    .waitFor();
  console.log(`four minutes, from choosing to readings: ${((performance.now() - chosenAtMs) / 1000).toFixed(2)} s`);
});

test('the loudest passages are listed and shown on the trace, and the distribution opens', async ({ page, desk }) => {
  const samples = tone(
    [
      { seconds: 6, levelDbfs: -30 },
      { seconds: 4, levelDbfs: -18 },
      { seconds: 6, levelDbfs: -30 },
    ],
    RATE,
  );
  await startJob(page, desk, 'Places');
  await dropFiles(page, [{ name: 'swell.wav', bytes: wavOf([samples, samples]) }]);
  await page.getByRole('link', { name: 'swell' }).click();
  await page.getByRole('tab', { name: 'Loudest' }).click();
  const loudest = page.getByRole('button', { name: /^0:06\.\d+ −18\.0 LUFS 3 s, 1\.$/ });
  await loudest.click();
  await expect(loudest).toHaveAttribute('aria-pressed', 'true');
  await expect(page.getByRole('button', { name: /LUFS 10 s, 1\.$/ })).toHaveCount(1);
  await page.getByRole('button', { name: 'Charts' }).click();
  await page.getByRole('tab', { name: 'Loudness distribution' }).click();
  await page.getByText('As a table').click();
  await expect(page.getByRole('table', { name: 'Loudness distribution' })).toContainText('-18');
});

test('mono tells what it is on two speakers', async ({ page, desk }) => {
  await startJob(page, desk, 'One voice');
  await dropFiles(page, [{ name: 'voice.wav', bytes: wavOf([tone([{ seconds: 4, levelDbfs: -20 }], RATE)]) }]);
  await page.getByRole('link', { name: 'voice' }).click();
  await expect(page.getByRole('row', { name: /^Integrated/ })).toContainText('−23.0');
  await expect(page.getByRole('row', { name: /^On two speakers/ })).toContainText('−20.0');
});

test('a layout chosen by hand is measured anew, survives a reload, and can be left to the file again', async ({
  page,
  desk,
}) => {
  const sound = tone([{ seconds: 4, levelDbfs: -20 }], RATE);
  const silent = new Float32Array(sound.length);
  await startJob(page, desk, 'Six channels');
  // All that is heard stands where the LFE of a usual 5.1 is.
  await dropFiles(page, [{ name: 'six.wav', bytes: wavOf([silent, silent, silent, sound, silent, silent]) }]);
  await page.getByRole('link', { name: 'six' }).click();
  const integrated = page.getByRole('row', { name: /^Integrated/ });
  await expect(integrated).toContainText('◌');
  const choose = async (name: RegExp) => {
    await page.getByRole('button', { name: 'per channel' }).click();
    await page.getByLabel('Channel layout').click();
    await page.getByRole('option', { name }).click();
  };
  await choose(/5\.1 in film order/);
  await expect(integrated).toContainText('−21.5');
  await page.reload();
  await expect(integrated).toContainText('−21.5');
  await expect(page.getByText('24-bit · 48 kHz · 5.1 in film order')).toBeVisible();
  await choose(/as the file has it/);
  await expect(integrated).toContainText('◌');
});

test('downmixes stand beside a surround programme, and one of them can be set and delivered', async ({
  page,
  desk,
}) => {
  const at = (levelDbfs: number) => tone([{ seconds: 4, levelDbfs }], RATE);
  const silent = new Float32Array(4 * RATE);
  await startJob(page, desk, 'Surround');
  // One tone in the centre and the left surround: what both share adds up in the downmix.
  const six = [silent, silent, at(-20), silent, at(-26), silent];
  await dropFiles(page, [{ name: 'reel.wav', bytes: wavOf(six, { channelMask: 0x3f }) }]);
  await page.getByRole('link', { name: 'reel' }).click();
  await page.getByRole('button', { name: /5\.1, unchanged/ }).click();
  const line = (name: string) => page.getByRole('row', { name: new RegExp(`^${name}`) });
  // The centre at −23.01 LUFS and the surround, 6 dB below, counts 1.41 times.
  await expect(line('5.1')).toContainText('−21.7 LUFS');
  // Left: both at −3 dB, together 3.52 dB up; right: the centre alone.
  await expect(line('Stereo downmix')).toContainText('−20.9 LUFS');
  await expect(line('Stereo downmix')).toContainText('−19.5 dBTP');
  // The centre as it is and the surround at −6 dB: 1.94 dB up.
  await expect(line('Mono downmix')).toContainText('−21.1 LUFS');
  await page.getByRole('radio', { name: 'Stereo' }).click();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: /Stereo downmix \(BS\.775\)/ })).toBeVisible();
  await expect(page.getByRole('row', { name: /^Integrated/ })).toContainText('−20.9');
  await page.getByRole('button', { name: /^Meet the target/ }).click();
  await page.getByRole('button', { name: 'Deliver', exact: true }).click();
  await page.waitForURL(/hand-over/);
  await expect(page.getByRole('row', { name: /reel_ebu-r128/ })).toContainText('verified');
  const waiting = page.waitForEvent('download');
  await page
    .getByRole('link', { name: /^Download/ })
    .first()
    .click();
  const path = join(desk.scratch, 'reel.wav');
  await (await waiting).saveAs(path);
  const [left, right] = decodedByFfmpeg(path, 2);
  // At 4 s of 48 kHz it is two channels; the right one has the centre alone.
  expect(left?.length).toBe(4 * RATE);
  const rms = (samples: Float32Array | undefined = new Float32Array(1)) =>
    Math.sqrt(samples.reduce((sum, x) => sum + x * x, 0) / samples.length);
  expect(20 * Math.log10(rms(left) / rms(right))).toBeCloseTo(3.53, 1);
  expect(Math.abs(ffmpegLoudness(path).integratedLufs - -23)).toBeLessThan(0.1);
});
