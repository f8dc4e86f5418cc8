/** Taking in as it goes on a bad day: large files, interruptions, second thoughts, and jobs that move house. */
import { mkdirSync, openSync, readFileSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import { ffmpeg } from '../tests/fixtures/ffmpeg';
import { buildWav } from '../tests/fixtures/wav';
import { dropFiles, expect, startJob, test } from './desk';
import { tone } from './sine-file';

/** A WAV of digital silence with a second of noise, as large as is asked for, without holding it. */
function largeWav(path: string, bytes: number): string {
  const head = buildWav({ bits: 24, statedDataBytes: bytes });
  const file = openSync(path, 'w');
  writeSync(file, head);
  writeSync(file, Buffer.from(Array.from({ length: 288_000 }, (_, i) => (i * 7919) & 0x1f)), 0, 288_000, head.length);
  writeSync(file, Buffer.alloc(1), 0, 1, head.length + bytes - 1);
  return path;
}

test('a large upload goes on after a reload of the page and a restart of the server', async ({ page, desk }) => {
  const path = largeWav(join(desk.scratch, 'concert.wav'), 240_000_000);
  await startJob(page, desk, 'A long concert');
  const requests: { method: string; offset: number }[] = [];
  page.on('request', (request) => {
    if (!request.url().includes('/api/uploads')) return;
    requests.push({ method: request.method(), offset: Number(request.headers()['upload-offset'] ?? 0) });
  });
  // Slow enough to be interrupted on the way.
  const devtools = await page.context().newCDPSession(page);
  const throttle = (uploadThroughput: number) =>
    devtools.send('Network.emulateNetworkConditions', {
      offline: false,
      latency: 0,
      downloadThroughput: -1,
      uploadThroughput,
    });
  await throttle(40_000_000);
  await page.locator('input[type=file]').first().setInputFiles(path);
  const arriving = page.getByRole('region', { name: 'Arriving' }).or(page.getByText(/concert\.wav/).first());
  await expect(arriving.first()).toBeVisible();
  await expect(page.getByText(/[3-9]\d MB of 240 MB/)).toBeVisible({ timeout: 30_000 });

  page.on('dialog', (dialog) => void dialog.accept());
  await page.reload();
  await expect(page.getByText(/concert\.wav \(240 MB\) was interrupted/)).toBeVisible();
  await page.locator('input[type=file]').first().setInputFiles(path);
  await expect(page.getByText(/1\d\d MB of 240 MB/)).toBeVisible({ timeout: 30_000 });
  const resumed = requests.filter(({ method }) => method === 'PATCH').at(-1);
  expect(resumed?.offset).toBeGreaterThan(10_000_000);

  await desk.restart();
  await throttle(-1);
  await expect(page.getByRole('row', { name: /concert\.wav/ })).toContainText(/LUFS|dBTP|measuring/, {
    timeout: 60_000,
  });
  expect(requests.filter(({ method }) => method === 'POST')).toHaveLength(1);
  const last = requests.filter(({ method }) => method === 'PATCH').at(-1);
  expect(last?.offset).toBeGreaterThan(resumed?.offset ?? 0);
  rmSync(path);
});

test('rows are ordered, grouped, renamed, noted, taken out and put back', async ({ page, desk }) => {
  await startJob(page, desk, 'Second thoughts');
  await dropFiles(page, [
    tone(desk, 'Overture_bass.wav', -10),
    tone(desk, 'Overture_drums.wav', -30),
    tone(desk, 'Spot.wav', -2),
  ]);
  const row = (name: string) => page.getByRole('row', { name });
  for (const name of ['Overture_bass.wav', 'Overture_drums.wav', 'Spot.wav']) {
    await expect(row(name)).toContainText(/−\d+\.\d LUFS/);
  }
  const titles = () => page.locator('tbody tr td:nth-child(2) > a').allTextContents();
  await page.getByRole('combobox', { name: 'Order' }).click();
  await page.getByRole('option', { name: 'furthest from the spec first' }).click();
  await expect.poll(async () => (await titles())[0]).toBe('Overture_drums');
  await page.getByRole('combobox', { name: 'Order' }).click();
  await page.getByRole('option', { name: 'by title' }).click();
  await expect.poll(titles).toEqual(['Overture_bass', 'Overture_drums', 'Spot']);

  await expect(page.getByText('2 stems of one mix?')).toBeVisible();
  await page.getByRole('button', { name: 'Group', exact: true }).click();
  await expect(page.getByRole('rowheader', { name: /Overture 2 programmes/ })).toBeVisible();

  await row('Spot.wav').getByRole('button', { name: 'Edit' }).click();
  await page.getByLabel('Title').fill('Radio spot');
  await page.getByLabel(/^Group/).fill('Campaign');
  await page.getByLabel('Note').fill('the client wants it louder');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(row('Spot.wav')).toContainText('the client wants it louder');
  await expect(page.getByRole('rowheader', { name: /Campaign 1 programme/ })).toBeVisible();

  await row('Spot.wav').getByRole('button', { name: 'Edit' }).click();
  await page.getByRole('button', { name: 'Remove from the job' }).click();
  await expect(row('Spot.wav')).toHaveCount(0);
  await page.reload();
  await page.getByRole('button', { name: 'Restore' }).click();
  await expect(row('Spot.wav')).toContainText('Radio spot');
});

test('what a file carries is shown', async ({ page, desk }) => {
  const path = join(desk.scratch, 'take.wav');
  ffmpeg(
    ...['-f', 'lavfi', '-i', 'sine=frequency=440:sample_rate=48000:duration=2', '-write_bext', '1'],
    ...['-metadata', 'description=Dome hall', '-metadata', 'time_reference=1641600000', path],
  );
  await startJob(page, desk, 'Sent from a truck');
  await dropFiles(page, [{ name: 'take.wav', bytes: readFileSync(path) }]);
  await page.getByRole('row', { name: 'take.wav' }).getByRole('button', { name: 'File' }).click();
  const dialog = page.getByRole('dialog', { name: 'take.wav' });
  await expect(dialog).toContainText('starts at 9:30:00.000 after midnight');
  await expect(dialog).toContainText('Dome hall');
  await expect(dialog).toContainText('bext');
  await page.keyboard.press('Escape');
  await expect(dialog).toHaveCount(0);
});

test('a refused file can be tried again', async ({ page, desk }) => {
  await startJob(page, desk, 'A mistake, twice');
  await dropFiles(page, [{ name: 'notes.wav', bytes: Buffer.from('not sound '.repeat(50)) }]);
  await expect(page.getByText(/notes\.wav is not a sound file/)).toBeVisible();
  await page.getByRole('button', { name: 'Try again' }).click();
  await expect(page.getByText(/notes\.wav is not a sound file/)).toBeVisible();
  await page.getByRole('button', { name: 'Close' }).click();
  await expect(page.getByText(/notes\.wav/)).toHaveCount(0);
});

test('a folder that is dropped is walked through', async ({ page, desk }) => {
  const folder = join(desk.scratch, 'chapters');
  mkdirSync(join(folder, 'later'), { recursive: true });
  for (const [i, place] of ['.', '.', 'later'].entries()) {
    writeFileSync(join(folder, place, `Guide 0${i + 1}.wav`), tone(desk, `chapter${i}.wav`, -6 - i).bytes);
  }
  await startJob(page, desk, 'A folder of chapters');
  // The browser's own drag, since a made-up one holds no folders.
  const devtools = await page.context().newCDPSession(page);
  const data = { items: [], files: [folder], dragOperationsMask: 1 };
  for (const type of ['dragEnter', 'dragOver', 'drop'] as const) {
    await devtools.send('Input.dispatchDragEvent', { type, x: 400, y: 400, data });
  }
  for (const i of [1, 2, 3]) await expect(page.getByRole('row', { name: `Guide 0${i}.wav` })).toContainText('LUFS');
  await expect(page.getByText('3 parts of one series?')).toBeVisible();
});

test('files of the machine itself are taken in where they lie', async ({ page, desk }) => {
  const { bytes } = tone(desk, 'shelf mix.wav', -7.5);
  mkdirSync(join(desk.media, 'season'), { recursive: true });
  writeFileSync(join(desk.media, 'season', 'shelf mix.wav'), bytes);
  await startJob(page, desk, 'From the shelf');
  await page.getByRole('button', { name: 'From this machine' }).click();
  await page.getByRole('button', { name: 'season' }).click();
  await page.getByLabel('shelf mix.wav').check();
  await page.getByRole('button', { name: 'Take in 1 file' }).click();
  const row = page.getByRole('row', { name: 'shelf mix.wav' });
  await expect(row).toContainText(/−\d+\.\d LUFS/);
  await expect(row).toContainText(/not copied; read from\s*season\/shelf mix\.wav/);
  rmSync(join(desk.media, 'season', 'shelf mix.wav'));
  await page.reload();
  await expect(row).toContainText('missing:');
});

test('a job is found, put away, exported and brought in again', async ({ page, desk }) => {
  await startJob(page, desk, 'Moving house');
  await dropFiles(page, [tone(desk, 'mix.wav')]);
  await expect(page.getByRole('row', { name: 'mix.wav' })).toContainText(/−\d+\.\d LUFS/);
  await page.getByRole('link', { name: 'Opsimeter' }).click();
  await page.getByLabel('Search').fill('house moving');
  const list = page.getByRole('list', { name: 'Jobs' });
  await expect(list.getByRole('listitem')).toHaveCount(1);
  await expect(list).toContainText('1 programme · nothing written yet');

  const downloading = page.waitForEvent('download');
  await page.getByRole('link', { name: 'Export Moving house as a ZIP' }).click();
  const download = await downloading;
  expect(download.suggestedFilename()).toBe('moving-house.zip');
  const zip = join(desk.scratch, 'moving-house.zip');
  await download.saveAs(zip);

  await page.getByRole('button', { name: 'Archive Moving house' }).click();
  await expect(list).toHaveCount(0);
  await page.getByRole('checkbox').check();
  await expect(list).toContainText('archived');

  await page.getByRole('button', { name: 'Delete Moving house' }).click();
  await expect(list).toHaveCount(0);
  await page.getByText('1 deleted').click();
  await page.getByRole('button', { name: 'Restore Moving house' }).click();
  await expect(page.getByText('1 deleted')).toHaveCount(0);
  await page.getByRole('checkbox').check();
  await expect(list).toContainText('1 programme · nothing written yet · archived');

  await page.locator('input[type=file]').setInputFiles(zip);
  await page.waitForURL(/\/jobs\/.+\/take-in/);
  await expect(page.getByRole('row', { name: 'mix.wav' })).toContainText(/−\d+\.\d LUFS/);

  await page.goto(desk.base);
  writeFileSync(zip, readFileSync(zip).subarray(0, 5000));
  await page.locator('input[type=file]').setInputFiles(zip);
  await expect(page.getByText(/moving-house\.zip is not a job that Opsimeter can import/)).toBeVisible();
});
