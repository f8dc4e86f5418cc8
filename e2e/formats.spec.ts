/** Files as they are sent: compressed, contained in video, or not sound at all. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ffmpeg } from '../tests/fixtures/ffmpeg';
import { handOver } from './delivering';
import { dropFiles, expect, startJob, test } from './desk';

const TONE = ['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000:duration=5,volume=-6dB', '-ac', '2'];

test('FLAC, MP3, AIFF and the sound of a video are taken in, measured and handed over', async ({ page, desk }) => {
  const made = (name: string, ...args: string[]) => {
    const path = join(desk.scratch, name);
    ffmpeg(...args, path);
    return { name, bytes: readFileSync(path) };
  };
  const files = [
    made('session.flac', ...TONE, '-c:a', 'flac', '-sample_fmt', 's32', '-bits_per_raw_sample', '24'),
    made('episode.mp3', ...TONE, '-c:a', 'libmp3lame', '-b:a', '128k'),
    made('stem.aiff', ...TONE, '-c:a', 'pcm_s24be'),
    made(
      'film.mp4',
      ...['-f', 'lavfi', '-i', 'color=c=black:s=64x64:r=25:d=5', ...TONE.slice(0, 4), '-c:v', 'mpeg4', '-c:a', 'aac'],
      ...['-map', '0:v', '-map', '1:a', '-map', '1:a', '-ac:a:0', '2', '-ac:a:1', '1'],
    ),
  ];
  await startJob(page, desk, 'What was sent');
  await dropFiles(page, files);
  const row = (name: string) => page.getByRole('row', { name });
  for (const { name } of files) await expect(row(name)).toContainText(/−\d+\.\d LUFS/);
  await expect(row('session.flac')).toContainText('FLAC 24-bit · 48 kHz');
  await expect(row('episode.mp3')).toContainText('MPEG audio · MP3 128 kb/s');
  await expect(row('episode.mp3')).toContainText('Lossy: MP3 at 128 kb/s');
  await expect(row('stem.aiff')).toContainText('AIFF · 24-bit');
  await expect(row('film.mp4')).toContainText('2 sound tracks; this is track 1');
  // The same sound, whatever it came in: the lossless ones to the tenth.
  const levels = await Promise.all(['session.flac', 'stem.aiff'].map((name) => row(name).textContent()));
  const lufs = levels.map((text) => /−\d+\.\d LUFS/.exec(text ?? '')?.[0]);
  expect(lufs[0]).toBe(lufs[1]);

  // The other sound track of the video is half as many channels.
  await expect(row('film.mp4')).toContainText('stereo');
  await row('film.mp4').getByRole('combobox', { name: 'Sound track' }).click();
  await page.getByRole('option', { name: 'track 2 of 2' }).click();
  await expect(row('film.mp4')).toContainText('mono');
  await expect(row('film.mp4')).toContainText(/−\d+\.\d LUFS/);

  await page.getByRole('link', { name: 'session' }).click();
  await page.getByRole('button', { name: /^Meet the target/ }).click();
  await handOver(page);
  await expect(page.getByRole('row', { name: /session_/ })).toContainText('sha256');
});

test('what is not sound is refused in words, and nothing else is lost', async ({ page, desk }) => {
  await startJob(page, desk, 'A mistake');
  await dropFiles(page, [{ name: 'notes.mp3', bytes: Buffer.from('Take 3 was better. '.repeat(100)) }]);
  await expect(page.getByText(/notes\.mp3 is not a sound file that can be read/)).toBeVisible();
});
