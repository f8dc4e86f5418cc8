/** An audio definition (ADM): shown as a tree, and its renderings taken in as programmes. */
import { admWav } from '../tests/fixtures/adm';
import { dropFiles, expect, startJob, test } from './desk';

const RATE = 48_000;
const sine = (hz: number, gain: number) =>
  Float32Array.from({ length: 4 * RATE }, (_, n) => gain * Math.sin((2 * Math.PI * hz * n) / RATE));

test('a definition is read, and renderings of it become programmes', async ({ page, desk }) => {
  const object = (name: string, channel: number, block: object) => ({
    name,
    tracks: [{ channel, type: 'Objects' as const, blocks: [block] }],
  });
  const bytes = admWav(
    {
      programmes: [
        { name: 'Main', language: 'en', contents: [{ name: 'Everything', objects: [0, 1] }] },
        { name: 'Clouds', contents: [{ name: 'Clouds', objects: [2] }] },
      ],
      objects: [
        object('Voice', 1, { azimuth: 0 }),
        object('Comet', 2, { azimuth: 110 }),
        object('Cloud', 2, { more: '<width>90</width>' }),
      ],
    },
    [sine(440, 0.1), sine(660, 0.1)],
  );
  await startJob(page, desk, 'Dome');
  await dropFiles(page, [{ name: 'dome.wav', bytes }]);
  const row = page.getByRole('row', { name: 'dome.wav' });
  await expect(row).toContainText('tracks of an audio definition (ADM) with objects');
  await row.getByRole('button', { name: 'File' }).click();
  const dialog = page.getByRole('dialog', { name: 'dome.wav' });
  await expect(dialog.getByRole('listitem').filter({ hasText: 'Comet' }).last()).toHaveText('Comet object · channel 2');
  await expect(dialog).toContainText('Not rendered: “Cloud 3” has a size (width, height or depth).');
  const main = dialog.getByRole('group', { name: 'Render “Main” for' });
  const take = dialog.getByRole('button', { name: /^Take in/ });
  await expect(take).toBeDisabled();
  await main.getByLabel('stereo').check();
  await main.getByLabel('5.1', { exact: true }).check();
  await expect(take).toHaveText('Take in 2 renderings');
  // Twice at once is once.
  await take.dblclick();
  await expect(dialog).toBeHidden();
  const surround = page.getByRole('row', { name: 'dome_Main_5.1.wav' });
  await expect(surround).toContainText(/32-bit float · 48 kHz/);
  await expect(surround).toContainText(/−\d+\.\d LUFS/);
  await expect(page.getByRole('row', { name: 'dome_Main_stereo.wav' })).toContainText(/−\d+\.\d LUFS/);
  await expect(page.getByRole('row', { name: /^.*dome/ })).toHaveCount(3);
  await page.getByRole('link', { name: 'dome, “Main” in 5.1' }).click();
  await expect(page.getByRole('heading', { name: 'dome, “Main” in 5.1' })).toBeVisible();
});
