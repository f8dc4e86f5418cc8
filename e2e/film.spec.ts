/** Sound to picture: a film tells its time code, and places are named and typed by it. */
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { ffmpeg } from '../tests/fixtures/ffmpeg';
import { dropFiles, expect, startJob, test } from './desk';
import { namesInZip } from './zip-names';

test('the time code of a film is shown, and typed', async ({ page, desk }) => {
  const path = join(desk.scratch, 'reel-2.mov');
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'testsrc2=s=320x180:r=30000/1001:d=8', '-f', 'lavfi', '-i', 'sine=440:r=48000:d=8'],
    ...['-ac', '2', '-c:v', 'mpeg4', '-c:a', 'pcm_s24le', '-timecode', '00:08:58;00', path],
  );
  await startJob(page, desk, 'Feature');
  await dropFiles(page, [{ name: 'reel-2.mov', bytes: readFileSync(path) }]);
  const row = page.getByRole('row', { name: 'reel-2.mov' });
  await expect(row).toContainText(/−\d+\.\d LUFS/);
  await row.getByRole('button', { name: 'File' }).click();
  const dialog = page.getByRole('dialog', { name: 'reel-2.mov' });
  await expect(dialog).toContainText('MPEG-4 Visual, 320 × 180, 29.97 fps');
  await expect(dialog).toContainText('starts at 00:08:58;00, 29.97 fps, drop frame');
  // Another one is set by hand, as often as that is pressed, and the file's own is taken again.
  const byHand = dialog.getByLabel('Set it by hand, for the first frame of the sound');
  await byHand.fill('01:00:00:30');
  await expect(byHand).toHaveAttribute('aria-invalid', 'true');
  await expect(dialog.getByRole('button', { name: 'Set time code' })).toBeDisabled();
  await byHand.fill('01:00:00:00');
  await dialog.getByRole('button', { name: 'Set time code' }).dblclick();
  await expect(dialog).toContainText('starts at 01:00:00:00, 29.97 fps, non-drop frame, set by hand');
  await dialog.getByRole('button', { name: 'That of the file' }).click();
  await expect(dialog).toContainText('starts at 00:08:58;00, 29.97 fps, drop frame');
  await page.keyboard.press('Escape');

  await page.getByRole('link', { name: 'reel-2', exact: true }).click();
  await expect(page.locator('[data-time-code]')).toHaveText('00:08:58;00');
  const trace = page.getByRole('slider', { name: /position$/ });
  await expect(trace).toBeVisible();
  await trace.focus();
  await page.keyboard.press('End');
  // 8 s are 239.76 pictures: number 239 is shown last, and two labels are left out at the minute.
  await expect(page.locator('[data-time-code]')).toHaveText('00:09:06;01');

  const box = await trace.boundingBox();
  if (!box) throw new Error('there is no trace');
  await page.mouse.move(box.x + box.width * 0.6, box.y + box.height / 2);
  await page.mouse.down();
  await page.mouse.move(box.x + box.width * 0.9, box.y + box.height / 2, { steps: 4 });
  await expect(trace).toContainText(/0:0\d\.\d{3} · 00:09:0\d;\d\d · S/);
  await page.mouse.up();
  const span = page.getByRole('group', { name: 'Span', exact: true });
  await span.getByLabel('Span start').fill('00:09:00;01');
  // Drop-frame counting has no such label.
  await expect(span.getByLabel('Span start')).toHaveAttribute('aria-invalid', 'true');
  await span.getByLabel('Span start').fill('00:09:00;02');
  await span.getByLabel('Span start').press('Enter');
  // The 60th picture begins after 60 × 1.001 / 30 s.
  await expect(span.getByLabel('Span start')).toHaveValue('0:02.002');
  await expect(span).toContainText('00:09:00;02 – 00:09:05;');
  await span.getByRole('button', { name: 'Marker' }).click();
  await page.getByRole('tab', { name: 'Markers' }).click();
  await expect(page.getByRole('listitem').filter({ hasText: '00:09:00;02' })).toContainText('0:02');
});

test('the tracks of a film become programmes, and go back into it', async ({ page, desk }, testInfo) => {
  const path = join(desk.scratch, 'eight.mxf');
  const tones = Array.from({ length: 8 }, (_, i) => ['-f', 'lavfi', '-i', `sine=${300 + 100 * i}:r=48000:d=4`]).flat();
  const mapped = Array.from({ length: 9 }, (_, i) => ['-map', `${i}`]).flat();
  const moving = ['-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=4'];
  ffmpeg(...moving, ...tones, ...mapped, '-c:v', 'mpeg2video', '-c:a', 'pcm_s24le', path);
  await startJob(page, desk, 'Broadcast');
  await dropFiles(page, [{ name: 'eight.mxf', bytes: readFileSync(path) }]);
  const row = page.getByRole('row', { name: 'eight.mxf' });
  await expect(row).toContainText(/−\d+\.\d LUFS/);
  await row.getByRole('button', { name: 'File' }).click();
  const dialog = page.getByRole('dialog', { name: 'eight.mxf' });
  const programmes = dialog.getByLabel('Programmes, by their tracks');
  await expect(programmes).toHaveValue('1+2, 3-8');
  await programmes.fill('1+2, 2');
  await expect(programmes).toHaveAttribute('aria-invalid', 'true');
  await programmes.fill('1+2, 3-9');
  await expect(dialog).toContainText('The file has 8 tracks.');
  await programmes.fill('2+1, 3-8');
  await dialog.getByRole('button', { name: 'Take in 2 programmes' }).dblclick();
  await expect(dialog).toBeHidden();
  const surround = page.getByRole('row', { name: 'eight, tracks 3-8' });
  await expect(surround).toContainText(/5\.1/);
  await expect(surround).toContainText(/−\d+\.\d LUFS/);
  await expect(page.getByRole('row', { name: 'eight, tracks 2+1' })).toContainText('stereo');
  await expect(page.getByRole('row', { name: /eight/ })).toHaveCount(3);

  // Both are brought to their target and go back, all at once, however often that is pressed.
  await page.getByRole('link', { name: 'eight, tracks 3-8', exact: true }).click();
  await page.getByRole('link', { name: 'Hand over' }).click();
  await page.getByRole('button', { name: 'Put back into the film' }).dblclick();
  await expect(page.getByRole('heading', { name: 'eight' })).toBeVisible();
  await expect(page.getByText('2 of 2 not delivered')).toBeVisible();
  const write = page.getByRole('button', { name: 'Write the film' });
  await expect(write).toBeDisabled();
  await page.getByRole('button', { name: 'Deliver all 2' }).click();
  await expect(page.getByText('ready to be written')).toBeVisible();
  await write.dblclick();
  const zipLink = page.getByRole('link', { name: 'Download (ZIP)' });
  await expect(zipLink).toHaveCount(1);
  await expect(page.getByText(/2\+1: −23\.0 LUFS/)).toBeVisible();
  await expect(page.getByText(/3-8: −23\.0 LUFS/)).toBeVisible();
  const [download] = await Promise.all([page.waitForEvent('download'), zipLink.click()]);
  const zip = testInfo.outputPath('film.zip');
  await download.saveAs(zip);
  expect(await namesInZip(zip)).toEqual([
    'eight/eight certificates.json',
    'eight/eight certificates.pdf',
    'eight/eight.mxf',
  ]);
});

test('spans of an edit list become markers, once however often it is chosen, and what is left out is said', async ({
  page,
  desk,
}) => {
  const path = join(desk.scratch, 'reel-4.mov');
  const moving = ['-f', 'lavfi', '-i', 'testsrc2=s=160x90:r=25:d=8', '-f', 'lavfi', '-i', 'sine=440:r=48000:d=8'];
  ffmpeg(...moving, '-c:v', 'mpeg4', '-c:a', 'pcm_s24le', '-timecode', '10:00:00:00', path);
  await startJob(page, desk, 'Cut');
  await dropFiles(page, [{ name: 'reel-4.mov', bytes: readFileSync(path) }]);
  await page.getByRole('link', { name: 'reel-4', exact: true }).click();
  await page.getByRole('tab', { name: 'Markers' }).click();
  const edit = (from: string, to: string) => `A V C 00:00:00:00 00:00:01:00 ${from} ${to}`;
  const list = `TITLE: CUT
001 ${edit('10:00:01:00', '10:00:03:12')}
* FROM CLIP NAME: Harbour
002 ${edit('10:00:04:00', '10:00:06:00')}
003 ${edit('09:59:00:00', '09:59:10:00')}
`;
  const choose = () =>
    page
      .getByLabel('Edit list or table of spans')
      .setInputFiles({ name: 'cut.edl', mimeType: 'text/plain', buffer: Buffer.from(list) });
  await choose();
  const status = page.getByRole('status').filter({ hasText: 'added' });
  await expect(status).toContainText('2 markers added');
  await expect(status).toContainText('line 5: outside the programme');
  const marker = page.getByRole('listitem').filter({ hasText: '10:00:01:00' });
  await expect(marker.getByRole('textbox')).toHaveValue('Harbour');
  await choose();
  await expect(status).toContainText('0 markers added, 2 there already');
  await expect(page.getByRole('button', { name: /^Delete/ })).toHaveCount(2);
  await marker.getByRole('button').first().click();
  await expect(page.getByRole('group', { name: 'Span', exact: true })).toContainText('10:00:01:00 – 10:00:03:12');
});

test('the picture of a film is that of what is heard, and of where one is', async ({ page, desk }) => {
  const path = join(desk.scratch, 'greys.mov');
  // Seconds 0, 1, 2 … are greys of 30, 38, 46 …: what is shown tells when it is.
  const grey = `color=c=gray:s=16x8:r=25:d=24,format=yuv420p,geq=lum='30+8*floor(T)':cb=128:cr=128,scale=320:180,setsar=1`;
  const sounding = ['-f', 'lavfi', '-i', 'sine=440:r=48000:d=24'];
  const coded = ['-c:v', 'mpeg4', '-q:v', '2', '-c:a', 'pcm_s24le', '-timecode', '10:00:00:00'];
  ffmpeg('-f', 'lavfi', '-i', grey, ...sounding, ...coded, path);
  await startJob(page, desk, 'Picture');
  await dropFiles(page, [{ name: 'greys.mov', bytes: readFileSync(path) }]);
  await page.getByRole('link', { name: 'greys', exact: true }).click();
  await page.getByRole('tab', { name: 'Picture' }).click();
  const video = page.getByLabel('Picture of greys');
  await expect(video).toBeVisible();
  /** The second that is shown, and when the page says that it is. */
  const shown = () =>
    video.evaluate((element) => {
      const canvas = document.createElement('canvas');
      const context = canvas.getContext('2d');
      context?.drawImage(element as HTMLVideoElement, 0, 0, 16, 8);
      const [red = 0] = context?.getImageData(8, 4, 1, 1).data ?? [];
      // Of video levels, which begin at 16 and end at 235.
      const second = Math.max(0, Math.round(((red * 219) / 255 + 16 - 30) / 8));
      const clock = document.querySelector('[data-clock]')?.textContent ?? '';
      // While a segment is fetched, the last picture stays.
      const isThere = (element as HTMLVideoElement).readyState >= HTMLMediaElement.HAVE_CURRENT_DATA;
      return { isThere, second, clock: clock.split(':').reduce((sum, part) => 60 * sum + Number.parseFloat(part), 0) };
    });
  await expect.poll(async () => (await shown()).second).toBe(0);
  const trace = page.getByRole('slider', { name: /position$/ });
  await trace.focus();
  await page.keyboard.press('End');
  await expect.poll(async () => (await shown()).second).toBe(23);
  await page.keyboard.press('Home');
  await expect.poll(async () => (await shown()).second).toBe(0);

  // While it plays, over the edge of a piece as well.
  const box = await trace.boundingBox();
  if (!box) throw new Error('there is no trace');
  await page.mouse.click(box.x + (box.width * 8.5) / 24, box.y + box.height / 2);
  await expect.poll(async () => (await shown()).second).toBe(8);
  await page.keyboard.press('Space');
  const seen: Awaited<ReturnType<typeof shown>>[] = [];
  await expect
    .poll(async () => {
      seen.push(await shown());
      return seen.at(-1)?.second ?? 0;
    })
    .toBeGreaterThanOrEqual(12);
  await page.keyboard.press('Space');
  // A machine that has no time shows less of it, and nothing that is not heard.
  const apart = seen.filter(({ isThere, second, clock }) => (isThere && second < clock - 1.3) || second > clock + 0.3);
  expect(apart).toEqual([]);
  expect(new Set(seen.map(({ second }) => second)).size).toBeGreaterThan(2);
});
