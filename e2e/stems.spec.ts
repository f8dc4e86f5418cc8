/** Stems and their mix: suggested, tested, heard, and written so that they add up; by keys alone. */
import { musicLike, speechLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { expect, startJob, takeInAll, test } from './desk';
import { namesInZip } from './zip-names';

const RATE = 48_000;
const FRAMES = 8 * RATE;
const cut = (samples: Float32Array, gain: number) => samples.slice(5 * RATE, 5 * RATE + FRAMES).map((x) => gain * x);
const [voice = new Float32Array()] = speechLike().map((samples) => cut(samples, 0.1));
const pads = musicLike().map((samples) => cut(samples, 0.4));
const mix = pads.map((samples) => samples.map((x, n) => x + (voice[n] as number)));
const muted = voice.map((x, n) => (n >= 3 * RATE && n < 7 * RATE ? 0 : x));

const file = (name: string, samples: readonly Float32Array[]) => ({ name: `${name}.wav`, bytes: wavOf([...samples]) });

test('a stem that was muted is found, heard and told; sent again, all are written and add up', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Song');
  await takeInAll(page, [file('song_mix', mix), file('song_pads', pads), file('song_vox', [muted, muted])]);
  await page.getByRole('link', { name: 'Line up' }).press('Enter');
  await expect(page.getByText('stems · 3 programmes')).toBeVisible();
  await page.getByRole('button', { name: 'Make', exact: true }).press('Enter');

  // It is tested as soon as it is there.
  await expect(page.getByText(/do not add up (from 0:03|in)/)).toBeVisible();
  await expect(page.getByText('song_vox is in the mix there, and silent in its file.')).toBeVisible();
  await expect(page.getByRole('img', { name: /^song: waveforms .* song_pads \+?0\.0 dB · in time/ })).toBeVisible();
  await expect(page.getByRole('img', { name: /^What is left by octave and time; at most −/ })).toBeVisible();
  await page.keyboard.press('h');
  await expect(page.getByRole('button', { name: 'Hear what is left' })).toHaveAttribute('title', 'Stop (H)');
  await expect(page.getByText(/^raised by \+/)).toBeVisible();
  await page.keyboard.press('h');
  await expect(page.getByRole('button', { name: 'Hear what is left' })).toHaveAttribute(
    'title',
    'Hear what is left (H)',
  );
  await expect(page.getByText('the written ones will not either')).toBeVisible();

  // The stem as it should have been, in the place of the other.
  await page.getByRole('link', { name: 'Take in' }).press('Enter');
  await takeInAll(page, [file('song_vox again', [voice, voice])]);
  await page.getByRole('link', { name: 'Line up' }).press('Enter');
  await expect(page.getByRole('heading', { name: 'song', exact: true })).toBeVisible();
  await page.getByRole('button', { name: 'Edit' }).press('Enter');
  const dialog = page.getByRole('dialog', { name: 'Edit song' });
  await dialog.getByLabel('song_vox', { exact: true }).press('Space');
  await dialog.getByLabel('song_vox again').press('Space');
  await dialog.getByRole('button', { name: 'Save' }).press('Enter');
  await expect(page.getByText('◆stems add up')).toBeVisible();

  await page.getByRole('button', { name: 'Write 2 stems and the master' }).press('Enter');
  await expect(page.getByText(/adds up:? /)).toBeVisible();
  const download = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Download (ZIP)' }).press('Enter');
  expect(await namesInZip(await (await download).path())).toEqual([
    'song/00 song master.wav',
    'song/01 song_pads.wav',
    'song/02 song_vox again.wav',
    'song/song.pdf',
  ]);
  // And back: the muted stem again, by one key.
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/do not add up (from 0:03|in)/)).toBeVisible();
});

test('which is the mix can be said, and files that differ are named', async ({ page, desk }) => {
  await startJob(page, desk, 'Song');
  await takeInAll(page, [file('song_pads', pads), file('song_vox', [voice])]);
  await page.getByRole('link', { name: 'Line up' }).click();
  await page.getByRole('button', { name: 'Make', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Which programme is the mix?' })).toBeVisible();
  await page.getByRole('combobox', { name: 'Mix' }).click();
  await page.getByRole('option', { name: 'song_pads' }).click();
  await expect(page.getByText('song_vox: mono, and the mix stereo')).toBeVisible();
  await expect(page.getByRole('button', { name: 'Write 1 stem and the master' })).toBeDisabled();
});
