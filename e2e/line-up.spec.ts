/** Programmes that belong together: suggested, put in order, set as a whole, and taken back; by hand and by keys. */
import { speech } from '@/cli/demo/synth';
import { formatNumber } from '@/core/units/format';
import { musicLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { expect, startJob, takeInAll, test } from './desk';
import { namesInZip } from './zip-names';

const RATE = 48_000;
const tracks = [0.5, 0.2, 0.35].map((gain, i) => ({
  name: `Evening ${String(i + 1).padStart(2, '0')}.wav`,
  bytes: wavOf(musicLike().map((samples) => samples.slice(i * 9 * RATE, (i * 9 + 10) * RATE).map((x) => gain * x))),
}));

/** Five chapters, each of which fails otherwise: too soft, no head, too long a tail, a noisy room, stereo. */
const chapters = [{ gain: 0.15 }, { head: 0 }, { tail: 7 }, { floor: 0.03 }, { channels: 2 }].map(
  ({ gain = 0.6, head = 0.7, tail = 2, floor = 0.0003, channels = 1 }: Chapter, i) => {
    const voice = speech(8, RATE, i + 1);
    const samples = Float64Array.from({ length: Math.round((8 + head + tail) * RATE) }, (_, n) => {
      const own = voice[n - Math.round(head * RATE)] ?? 0;
      return gain * own + floor * Math.sin(n * n * 0.7);
    });
    return {
      name: `Comets ch${i + 1}.wav`,
      bytes: wavOf(
        Array.from({ length: channels }, () => samples),
        { sampleRateHz: RATE },
      ),
    };
  },
);
interface Chapter {
  gain?: number;
  head?: number;
  tail?: number;
  floor?: number;
  channels?: number;
}

test('three pieces become a record: suggested, ordered, balanced and undone', async ({ page, desk }) => {
  await startJob(page, desk, 'Evening');
  await takeInAll(page, tracks);
  await page.getByRole('link', { name: 'Line up' }).click();
  await expect(page.getByRole('heading', { name: 'No line-ups yet' })).toBeVisible();

  await page.getByRole('button', { name: 'Make', exact: true }).click();
  await expect(page.getByRole('heading', { name: 'Evening', level: 1 })).toBeVisible();
  const table = page.getByRole('table', { name: 'Programmes of Evening, in order' });
  const titles = () =>
    table
      .getByRole('rowheader')
      .allInnerTexts()
      .then((all) => all.map((text) => text.replace(/\s*loudest$/, '')));
  await expect(table.getByRole('row')).toHaveCount(4);
  expect(await titles()).toEqual(['Evening 01', 'Evening 02', 'Evening 03']);
  await expect(page.getByRole('img', { name: /^Evening along time: Evening 01 −/ })).toBeVisible();
  await expect(page.getByText('book · 3 programmes · 0:30')).toBeVisible();

  // It is a record: kind and name are changed in one dialog.
  await page.getByRole('button', { name: 'Edit' }).click();
  const dialog = page.getByRole('dialog', { name: 'Edit Evening' });
  await dialog.getByLabel('Name').fill('');
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(dialog.getByRole('alert')).toContainText('Enter a name');
  await dialog.getByLabel('Name').fill('An evening');
  await dialog.getByRole('combobox', { name: 'Kind' }).click();
  await page.getByRole('option', { name: 'record' }).click();
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('record · 3 programmes · 0:30')).toBeVisible();

  // Two seconds behind the first, and an overlap behind the second.
  const own = page.getByRole('table', { name: 'Programmes of An evening, in order' });
  await own.getByLabel('Gap after Evening 01, seconds').fill('2');
  await page.keyboard.press('Enter');
  await expect(own.getByRole('row').nth(2)).toContainText('0:12.000');
  await own.getByLabel('Gap after Evening 02, seconds').fill('−1,5');
  await page.keyboard.press('Enter');
  await expect(own.getByRole('row').nth(3)).toContainText('0:20.500');

  // Moved by keys: the last goes up by one place.
  await own.getByRole('button', { name: 'Move Evening 03' }).focus();
  await page.keyboard.press('Space');
  await expect(page.getByText(/^Evening 03.*position 3 of 3$/)).toBeAttached();
  await page.keyboard.press('ArrowUp');
  await expect(page.getByText('Evening 03: position 2 of 3')).toBeAttached();
  await page.keyboard.press('Space');
  await expect(own.getByRole('rowheader').nth(1)).toContainText('Evening 03');

  await page.getByRole('combobox', { name: 'Spec' }).click();
  await page.getByRole('option', { name: /EBU R 128(?! s1)/ }).click();
  await page.getByRole('button', { name: 'Whole at the target' }).click();
  await expect(page.getByText(/whole −23\.0 LUFS$/)).toBeVisible();
  const gains = () =>
    own
      .getByRole('textbox', { name: /^Gain of/ })
      .evaluateAll((fields) => fields.map((field) => (field as HTMLInputElement).value));
  expect(new Set(await gains()).size).toBe(1);
  await page.getByRole('button', { name: 'Each at the target' }).click();
  await expect(own.getByRole('cell', { name: '−23.0 LUFS' })).toHaveCount(3);
  expect(new Set(await gains()).size).toBeGreaterThan(1);
  // One key takes it back, and the whole is as it was.
  await page.getByRole('heading', { name: 'An evening' }).click();
  await page.keyboard.press('Control+z');
  await expect(page.getByText(/whole −23\.0 LUFS$/)).toBeVisible();
  await expect.poll(async () => new Set(await gains()).size).toBe(1);

  // All of it is there again after a reload; its programmes are on the desk with their gains.
  await page.reload();
  await expect(own.getByRole('rowheader').nth(1)).toContainText('Evening 03');
  await expect(page.getByText(/whole −23\.0 LUFS$/)).toBeVisible();
  const [gain = ''] = await gains();
  await own.getByRole('link', { name: 'Evening 01' }).click();
  await page.waitForURL(/measure-and-set/);
  await expect(page.getByRole('heading', { name: 'Evening 01' })).toBeVisible();
  const id = new URL(page.url()).searchParams.get('programme');
  const { treatment } = await (await page.request.get(`${desk.base}/api/programmes/${id}`)).json();
  expect(formatNumber(treatment.gainDb, 1, { plus: true })).toBe(gain);
});

test('one is made by hand, deleted and brought back; what can not be played is told', async ({ page, desk }) => {
  await startJob(page, desk, 'By hand');
  await takeInAll(
    page,
    [tracks[0], tracks[2]].filter((own) => own !== undefined),
  );
  const takeIn = page.url();
  await page.getByRole('link', { name: 'Line up' }).click();
  await page.getByRole('button', { name: 'New line-up' }).click();
  const dialog = page.getByRole('dialog', { name: 'New line-up' });
  await expect(dialog.getByRole('checkbox', { name: /^Evening/ })).toHaveCount(2);
  // What arrives meanwhile, from another window, can be chosen as well.
  const other = await page.context().newPage();
  await other.goto(takeIn);
  await takeInAll(other, [{ name: 'Evening 04.wav', bytes: wavOf([speech(6, RATE, 9)], { sampleRateHz: RATE }) }]);
  await other.close();
  await expect(dialog.getByRole('checkbox', { name: /^Evening/ })).toHaveCount(3);
  await dialog.getByLabel('Name').fill('Two of them');
  await dialog.getByRole('button', { name: 'Make the line-up' }).click();
  await expect(dialog.getByRole('alert')).toContainText('Choose at least one programme');
  await dialog.getByLabel('Evening 03').check();
  await dialog.getByLabel('Evening 01').check();
  await dialog.getByRole('button', { name: 'Make the line-up' }).click();
  const table = page.getByRole('table', { name: 'Programmes of Two of them, in order' });
  await expect(table.getByRole('rowheader')).toContainText(['Evening 03', 'Evening 01']);

  await table.getByLabel('Gap after Evening 03, seconds').fill('-11');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('alert').first()).toContainText('programme 1 is shorter than its overlaps');
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(table.getByRole('rowheader')).toHaveCount(2);

  await page.getByRole('button', { name: 'Delete' }).click();
  await expect(page.getByRole('heading', { name: 'No line-ups yet' })).toBeVisible();
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(page.getByRole('heading', { name: 'Two of them' })).toBeVisible();
});

test('a record is heard between its programmes, set by hand, written both ways, and taken away', async ({
  page,
  desk,
}, testInfo) => {
  await startJob(page, desk, 'Record');
  await takeInAll(page, tracks);
  await page.getByRole('link', { name: 'Line up' }).click();
  await page.getByRole('button', { name: 'Make', exact: true }).click();
  const table = page.getByRole('table', { name: 'Programmes of Evening, in order' });
  await expect(table.getByRole('row')).toHaveCount(4);

  // Codes, and what a CD asks; a mistyped digit is found out.
  await page.getByRole('button', { name: 'Edit' }).click();
  const dialog = page.getByRole('dialog', { name: 'Edit Evening' });
  await dialog.getByRole('combobox', { name: 'Kind' }).click();
  await page.getByRole('option', { name: 'record' }).click();
  await dialog.getByLabel('Artist').fill('Quillmere Dome Players');
  await dialog.getByLabel('Catalogue number (EAN or UPC)').fill('2012345000019');
  await dialog.getByLabel('Number ISRCs from').fill('QD-1A2-26');
  await dialog.getByLabel('For a CD: assess what a CD asks').check();
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(dialog.getByText('The last digit should be 8')).toBeVisible();
  await expect(dialog.getByText('An ISRC has twelve characters')).toBeVisible();
  await dialog.getByLabel('Catalogue number (EAN or UPC)').fill('2012345000018');
  await dialog.getByLabel('Number ISRCs from').fill('QD-1A2-26-00001');
  await dialog.getByRole('button', { name: 'Save' }).click();
  await expect(table.getByRole('cell', { name: 'QD-1A2-26-00003' })).toBeVisible();

  // By hand: one is typed, one stepped with keys; the gap makes another transition.
  await table.getByLabel('Gain of Evening 01, dB').fill('-2');
  await page.keyboard.press('Enter');
  await expect(table.getByLabel('Gain of Evening 01, dB')).toHaveValue('−2.0');
  await table.getByLabel('Gain of Evening 02, dB').press('ArrowUp');
  await expect(table.getByLabel('Gain of Evening 02, dB')).toHaveValue('+0.1');
  await table.getByLabel('Gap after Evening 01, seconds').fill('1.5');
  await page.keyboard.press('Enter');
  await expect(page.getByText('last 5 s, gap 1.50 s, first 5 s, as written')).toBeVisible();
  await page.getByRole('heading', { name: 'Evening', level: 1 }).click();
  await page.keyboard.press('t');
  await expect(page.getByRole('button', { name: 'Stop (T)' })).toBeVisible();
  await page.keyboard.press('t');
  await expect(page.getByRole('button', { name: 'Play the transition (T)' })).toBeVisible();

  // A CD's own format is chosen; what another misses is told before anything is written.
  await expect(page.getByText('CD: meets what a CD asks')).toBeVisible();
  await page.getByRole('combobox', { name: 'Bit depth' }).click();
  await page.getByRole('option', { name: '24-bit' }).click();
  await expect(page.getByText('CD: CD audio must be 44.1 kHz, 16 bit, stereo')).toBeVisible();
  await page.getByRole('combobox', { name: 'Bit depth' }).click();
  await page.getByRole('option', { name: '16-bit' }).click();
  await expect(page.getByText('CD: meets what a CD asks')).toBeVisible();
  // Pressed twice at once, it is written once.
  await page.getByRole('button', { name: 'One file' }).dblclick();
  await expect(page.getByText('CD: everything met')).toHaveCount(1);
  await page.getByRole('button', { name: 'Single files' }).click();
  await expect(page.getByText('CD: everything met')).toHaveCount(2);
  await expect(page.getByText('Evening 2', { exact: true })).toBeVisible();

  const [download] = await Promise.all([
    page.waitForEvent('download'),
    page.getByRole('link', { name: 'Download (ZIP)' }).first().click(),
  ]);
  const zip = testInfo.outputPath('record.zip');
  await download.saveAs(zip);
  const names = await namesInZip(zip);
  for (const name of ['01 Evening 01.wav', '03 Evening 03.wav', 'Evening.csv', 'Evening.pdf']) {
    expect(names).toContain(`Evening 2/${name}`);
  }
  await page.getByRole('button', { name: '4 files' }).click();
  await expect(page.getByRole('link', { name: 'Evening.cue' })).toBeVisible();
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Delete the files of Evening 2' }).click();
  await expect(page.getByText('CD: everything met')).toHaveCount(1);
});

test('a book is dropped and delivered in five actions; of what no gain mends it is said why', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Book');
  await takeInAll(page, chapters);
  // One to five.
  await page.getByRole('link', { name: 'Line up' }).click();
  await page.getByRole('button', { name: 'Make', exact: true }).click();
  await page.getByRole('combobox', { name: 'Spec' }).click();
  await page.getByRole('option', { name: 'Audiobook retail' }).click();
  await page.getByRole('button', { name: 'Deliver all 5' }).click();
  await expect(page.getByText('4 written and verified')).toBeVisible({ timeout: 60_000 });
  const notMet = page.getByRole('list', { name: 'Not met' });
  await expect(notMet.getByRole('listitem')).toHaveText(/^Comets ch4 ▲ noise floor \d+\.\d dB over$/);
  await expect(page.getByText('1 not met')).toBeVisible();
  await expect(page.getByText('noise floor', { exact: true })).toBeVisible();

  // One file of all chapters, for players of books: in mono, since one came in stereo.
  await expect(page.getByText(/^One file cannot hold/)).toBeVisible();
  await page.getByLabel('mono').check();
  await page.getByRole('button', { name: 'One file' }).click();
  await page.getByRole('button', { name: '4 files' }).click();
  await expect(page.getByRole('link', { name: 'Comets.m4b' })).toBeVisible();
  await page.keyboard.press('Escape');

  // The files are on the sheet, with all that belongs to a delivery.
  const jobId = /jobs\/([^/]+)/.exec(page.url())?.[1];
  const { rows } = await (await page.request.get(`${desk.base}/api/jobs/${jobId}/sheet`)).json();
  const isVerified = (row: { delivery: { written: { verdict: { inside: boolean } } } | null }) =>
    row.delivery?.written.verdict.inside;
  expect(rows.filter(isVerified)).toHaveLength(4);
});
