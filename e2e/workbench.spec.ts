/** Take in as a workbench: keys, columns, tags of many, a new version in the place of an old one; and the sheet taken back. */
import { musicLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { addDelivery } from './delivering';
import { expect, startJob, takeInAll, test } from './desk';

const RATE = 48_000;
const piece = (name: string, seconds: number, gain: number) => ({
  name: `${name}.wav`,
  bytes: wavOf(musicLike().map((samples) => samples.slice(14 * RATE, (14 + seconds) * RATE).map((x) => gain * x))),
});
const files = [piece('Dawn', 6, 0.3), piece('Dawn v2', 5, 0.5), piece('Dusk', 4, 0.4), piece('Noon', 4, 0.2)];

test('rows are gone through, selected and tagged by keys; columns stay chosen', async ({ page, desk }) => {
  await startJob(page, desk, 'Workbench');
  await takeInAll(page, files);
  await page.getByRole('combobox', { name: 'Order' }).click();
  await page.getByRole('option', { name: 'by title' }).click();
  const box = (name: string) => page.getByRole('checkbox', { name: `Select ${name}`, exact: true });
  await expect(page.getByRole('checkbox', { name: /^Select D/ }).first()).toHaveAccessibleName('Select Dawn');

  await box('Dawn').focus();
  await page.keyboard.press('ArrowDown');
  await expect(box('Dawn v2')).toBeFocused();
  await page.keyboard.press('Shift+ArrowDown');
  await expect(page.getByRole('heading', { name: '2 selected' })).toBeVisible();
  await page.keyboard.press('End');
  await expect(box('Noon')).toBeFocused();
  await page.keyboard.press('Control+a');
  await expect(page.getByRole('heading', { name: '4 selected' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('heading', { name: /selected$/ })).toHaveCount(0);
  // With the mouse: Ctrl takes one more, wherever in its row.
  await page
    .getByRole('row', { name: /Dusk/ })
    .getByRole('cell')
    .nth(2)
    .click({ modifiers: ['Control'] });
  await page
    .getByRole('row', { name: /Noon/ })
    .getByRole('cell')
    .nth(2)
    .click({ modifiers: ['Shift'] });
  await expect(page.getByRole('heading', { name: '2 selected' })).toBeVisible();

  await page.getByRole('button', { name: 'Tags', exact: true }).click();
  const dialog = page.getByRole('dialog', { name: 'Tags of 2 programmes' });
  await dialog.getByLabel('Artist').fill('Quillmere Dome Players');
  await dialog.getByRole('button', { name: 'Set tags' }).click();
  await expect(dialog).toHaveCount(0);
  const jobId = /jobs\/([^/]+)/.exec(page.url())?.[1];
  const artists = async () => {
    const { programmes } = await (await page.request.get(`${desk.base}/api/jobs/${jobId}`)).json();
    return programmes.map((own: { tags: { artist: string } }) => own.tags.artist).filter(Boolean);
  };
  await expect.poll(artists).toEqual(['Quillmere Dome Players', 'Quillmere Dome Players']);

  await page.getByRole('button', { name: 'Columns' }).click();
  await page.getByLabel('Loudness range').check();
  await page.getByLabel('Compact rows').check();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('columnheader', { name: 'Loudness range' })).toBeVisible();
  await page.reload();
  await expect(page.getByRole('columnheader', { name: 'Loudness range' })).toBeVisible();
  await expect(page.getByText('Noon.wav')).toHaveCount(0);
  await page.getByRole('combobox', { name: 'Order' }).click();
  await page.getByRole('option', { name: 'highest integrated first' }).click();
  await expect(page.getByRole('checkbox', { name: /^Select [DN]/ }).first()).toHaveAccessibleName('Select Dawn v2');

  // Removed by a key, and put back.
  await box('Noon').press('Space');
  await page.keyboard.press('Delete');
  await expect(page.getByRole('link', { name: 'Noon' })).toHaveCount(0);
  await page.getByRole('button', { name: 'Restore' }).click();
  await expect(page.getByRole('link', { name: 'Noon' })).toBeVisible();
});

test('a new version takes the place of an old one, and is taken back', async ({ page, desk }) => {
  await startJob(page, desk, 'Versions');
  await takeInAll(page, files.slice(0, 2));
  await expect(page.getByRole('button', { name: 'Replace' })).toHaveCount(2);
  await page
    .getByRole('row', { name: /Dawn\.wav/ })
    .getByRole('button', { name: 'Replace' })
    .click();
  const dialog = page.getByRole('dialog', { name: 'Replace the file of Dawn' });
  await dialog.getByRole('combobox', { name: 'New version' }).click();
  await page.getByRole('option', { name: 'Dawn v2' }).click();
  await expect(dialog.getByRole('row', { name: /^Length/ })).toContainText('−1.000 s');
  await expect(dialog.getByText('Everything that is set fits the new version.')).toBeVisible();
  await dialog.getByRole('button', { name: 'Replace' }).click();
  await expect(page.getByText('Dawn has its new version.')).toBeVisible();
  await expect(page.getByRole('row', { name: /Dawn v2\.wav/ }).getByRole('link', { name: 'Dawn' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('row', { name: /Dawn\.wav/ })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Dawn v2' })).toBeVisible();
});

test('the spec of a job is kept with it, and what is selected becomes a line-up', async ({ page, desk }) => {
  await startJob(page, desk, 'Evening');
  await takeInAll(page, files.slice(0, 4));
  const spec = page.getByRole('combobox', { name: 'Spec' });
  await expect(spec).toContainText('EBU R 128');
  await spec.press('Enter');
  await page.getByRole('option', { name: /Music streaming/ }).press('Enter');
  await expect(page.getByRole('columnheader', { name: /Music streaming/ })).toBeVisible();
  await expect(page.getByText('all saved')).toBeVisible();
  // Whoever comes without an address that names one.
  await page.goto(page.url().replace(/\?.*/, ''));
  await expect(spec).toContainText('Music streaming');

  await page.getByRole('combobox', { name: 'Order' }).press('Enter');
  await page.getByRole('option', { name: 'by title' }).press('Enter');
  await expect(page.getByRole('checkbox', { name: /^Select D/ }).first()).toHaveAccessibleName('Select Dawn');
  for (const name of ['Noon', 'Dusk']) await page.getByRole('checkbox', { name: `Select ${name}` }).press('Space');
  await page.getByRole('button', { name: 'New line-up' }).press('Enter');
  const table = page.getByRole('table', { name: 'Programmes of Evening, in order' });
  await expect(table.getByRole('rowheader')).toContainText(['Dusk', 'Noon']);
  await expect(page.getByText('batch · 2 programmes · 0:08')).toBeVisible();
  await expect(page.getByRole('combobox', { name: 'Spec' })).toContainText('Music streaming');
});

test('changes of the sheet are taken back one by one', async ({ page, desk }) => {
  await startJob(page, desk, 'Sheet');
  await takeInAll(page, files.slice(2, 3));
  await page.getByRole('link', { name: 'Dusk' }).click();
  await expect(page.getByRole('heading', { name: 'Dusk' })).toBeVisible();
  await page.getByRole('link', { name: 'Hand over' }).click();
  const rows = page.locator('tr[data-standing]');
  const undo = page.getByRole('button', { name: 'Undo' });
  await expect(undo).toBeDisabled();
  await addDelivery(page, { file: 'MP3' });
  await expect(rows).toHaveCount(1);
  await page.getByRole('button', { name: 'Tags' }).click();
  await page.getByLabel('Artist').fill('Somebody');
  await page.getByRole('button', { name: 'Save', exact: true }).click();
  await expect(page.getByRole('button', { name: 'Tags · 1' })).toBeVisible();
  await rows.getByRole('button', { name: /^Remove / }).click();
  await expect(rows).toHaveCount(0);

  await page.getByRole('heading', { level: 1 }).click();
  await page.keyboard.press('Control+z');
  await expect(rows).toHaveCount(1);
  await undo.click();
  await expect(page.getByRole('button', { name: 'Tags', exact: true })).toBeVisible();
  await undo.click();
  await expect(rows).toHaveCount(0);
  await expect(undo).toBeDisabled();
});

const SCROLLED_FRAMES = 240;

test('two hundred programmes scroll smoothly, and all are asked at once', async ({ page, desk }) => {
  await startJob(page, desk, 'Two hundred');
  const jobId = /jobs\/([^/]+)/.exec(page.url())?.[1];
  const upload = async (i: number) => {
    const samples = Float32Array.from({ length: RATE / 2 }, (_, n) => (0.1 + 0.003 * i) * Math.sin(n / (9 + i / 10)));
    const response = await page.request.put(`${desk.base}/api/jobs/${jobId}/sources?name=Episode ${i + 1}.wav`, {
      data: wavOf([samples]),
    });
    expect(response.ok()).toBe(true);
  };
  for (let i = 0; i < 200; i += 4) await Promise.all([0, 1, 2, 3].map((k) => upload(i + k)));
  await page.reload();
  await expect(page.getByRole('link', { name: 'Episode 1', exact: true })).toBeVisible();
  const measured = async () => {
    const { rows } = await (
      await page.request.get(`${desk.base}/api/jobs/${jobId}/take-in?spec=ebu-r128&show=waiting&offset=0&limit=1`)
    ).json();
    return rows.length;
  };
  await expect.poll(measured, { timeout: 60_000 }).toBe(0);
  // What the page's own thread works for, whatever else the machine does meanwhile.
  const devtools = await page.context().newCDPSession(page);
  await devtools.send('Performance.enable', { timeDomain: 'threadTicks' });
  const workedSeconds = async () => {
    const { metrics } = await devtools.send('Performance.getMetrics');
    return metrics.find(({ name }) => name === 'TaskDuration')?.value ?? Number.NaN;
  };
  const before = await workedSeconds();
  await page.evaluate(async (frames) => {
    const main = document.querySelector('main') as HTMLElement;
    for (let i = 0; i < frames; i++) {
      main.scrollBy(0, i < frames / 2 ? 60 : -60);
      await new Promise(requestAnimationFrame);
    }
  }, SCROLLED_FRAMES);
  const workedMs = (1000 * ((await workedSeconds()) - before)) / SCROLLED_FRAMES;
  console.log(`work for a frame while scrolling 200 programmes: ${workedMs.toFixed(1)} ms`);
  // 60 a second; a table that draws all of its rows works ten times as long.
  expect(workedMs).toBeLessThan(1000 / 60);

  await page.getByRole('checkbox', { name: 'Select all' }).click();
  await expect(page.getByRole('heading', { name: '200 selected' })).toBeVisible();
  await page.getByRole('button', { name: 'Only set levels' }).click();
  await expect(page.getByText(/\d+ (set|not met)/).first()).toBeVisible({ timeout: 60_000 });
});
