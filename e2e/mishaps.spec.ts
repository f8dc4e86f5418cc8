/** What goes wrong in a working day, or is taken back: each is said, and nothing is lost by it. */
import { CHAPTERS } from '../tests/fixtures/chapters';
import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { addDelivery } from './delivering';
import { dropFiles, expect, startJob, test } from './desk';
import { openDesk, plotOf } from './swell';

const RATE = 48_000;
/** Soft, loud for 4 s, and soft again. */
const SWELL = tone(
  [
    { seconds: 6, levelDbfs: -36 },
    { seconds: 4, levelDbfs: -14 },
    { seconds: 6, levelDbfs: -36 },
  ],
  RATE,
  330,
);
const WAV = wavOf([SWELL, SWELL]);

test('a file dropped on the first screen starts a job with it, and leads to its desk once measured', async ({
  page,
  desk,
}) => {
  await page.goto(desk.base);
  await expect(page.getByRole('heading', { name: 'Jobs' })).toBeVisible();
  await dropFiles(page, [{ name: 'overture_mix.wav', bytes: WAV }]);
  await page.waitForURL(/\/jobs\/.+\/measure-and-set\?programme=/);
  await expect(page.getByRole('heading', { name: 'overture_mix', level: 1 })).toBeVisible();
  await expect(page.getByRole('list', { name: 'Verdict' })).toContainText(/LU (over|under)/);
  await page.goto(page.url().replace(/measure-and-set.*/, 'take-in'));
  await expect(page.getByRole('row', { name: 'overture_mix.wav' })).toContainText('LUFS');
});

test('a file dropped before the page can take it is taken as soon as it can, once', async ({ page, desk }) => {
  await startJob(page, desk, 'Early');
  await page.route(/\/_next\/static\/.+\.js/, async (route) => {
    await new Promise((resolve) => setTimeout(resolve, 1500));
    await route.continue();
  });
  await page.goto(page.url(), { waitUntil: 'commit' });
  await page.getByRole('heading', { name: 'Take in' }).waitFor();
  await dropFiles(page, [{ name: 'early.wav', bytes: WAV }]);
  await expect(page.getByRole('row', { name: 'early.wav' })).toHaveCount(1);
  await page.getByRole('link', { name: 'Take in' }).click();
  await expect(page.getByRole('row', { name: 'early.wav' })).toHaveCount(1);
});

test('an address that names what is not there says what is shown instead', async ({ page, desk }) => {
  await startJob(page, desk, 'Addresses');
  await dropFiles(page, [{ name: 'piece.wav', bytes: WAV }]);
  await page.getByRole('link', { name: 'piece' }).click();
  await page.waitForURL(/measure-and-set/);
  const here = new URL(page.url());
  await page.goto(`${here.origin}${here.pathname}?programme=gone&spec=nobody-s`);
  await expect(page.getByText(/is not in this job \(or was removed\); piece is shown/)).toBeVisible();
  await expect(page.getByText(/There is no spec “nobody-s” \(or it was deleted\)/)).toBeVisible();
});

test('a window that has not heard of the last setting is told that its own was not saved, and shows that one', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Two windows');
  await dropFiles(page, [{ name: 'piece.wav', bytes: WAV }]);
  await page.getByRole('link', { name: 'piece' }).click();
  const slider = page.getByRole('slider', { name: 'Gain' });
  await expect(slider).toBeVisible();
  const other = await page.context().newPage();
  await other.route('**/api/events*', (route) => route.abort());
  await other.goto(page.url());
  const otherSlider = other.getByRole('slider', { name: 'Gain' });
  await expect(otherSlider).toBeVisible();

  const saved = page.waitForResponse((response) => response.request().method() === 'POST');
  await slider.focus();
  await page.keyboard.press('ArrowRight');
  await saved;
  const kept = await slider.getAttribute('aria-valuenow');
  await otherSlider.focus();
  await other.keyboard.press('ArrowLeft');
  await expect(other.getByText(/was changed in another window/)).toBeVisible();
  await expect(otherSlider).toHaveAttribute('aria-valuenow', kept as string);
  // It has been seen: what is set now is set upon it.
  await other.keyboard.press('ArrowRight');
  await expect(other.getByText(/was changed in another window/)).toHaveCount(0);
  await expect(slider).toHaveAttribute('aria-valuenow', (await otherSlider.getAttribute('aria-valuenow')) as string);
});

test('gone to the loudest passage, that is what is looped', async ({ page, desk }) => {
  await startJob(page, desk, 'Loops');
  await dropFiles(page, [{ name: 'piece.wav', bytes: WAV }]);
  await page.getByRole('link', { name: 'piece' }).click();
  await page.getByRole('heading', { name: 'piece' }).click();
  await page.keyboard.press('l');
  const from = page.getByLabel('Span start');
  await expect(from).toHaveValue(/^0:0[67]/);
  if ((await page.getByRole('button', { name: 'Loop the span' }).getAttribute('aria-pressed')) === 'false') {
    await page.keyboard.press('o');
  }
  await page.keyboard.press('Space');
  const second = async () => Number((await page.locator('[data-clock]').textContent())?.split(':')[1]);
  // Looked at often, and never in step with the loop: to its end, and back to its start, never beyond.
  const often = { intervals: [70, 110, 130], timeout: 15_000 };
  await expect.poll(second, often).toBeGreaterThan(8.6);
  await expect.poll(second, often).toBeLessThan(8);
  expect(await second()).toBeGreaterThan(5.9);
  await page.keyboard.press('Space');
});

test('a row taken off comes back, and its written file is played from it', async ({ page, desk }) => {
  await startJob(page, desk, 'Rows');
  await dropFiles(page, [{ name: 'piece.wav', bytes: WAV }]);
  await page.getByRole('link', { name: 'piece' }).click();
  await page.getByRole('link', { name: 'Hand over' }).click();
  await addDelivery(page, { levels: 'gain only' });
  const row = page.locator('tr[data-standing]');
  // The keyboard goes on where the row was asked for.
  await expect(page.getByRole('button', { name: 'Add a delivery' }).first()).toBeFocused();
  await page.getByRole('button', { name: 'Write 1 delivery' }).click();
  await expect(row).toContainText('verified', { timeout: 30_000 });

  await row.getByRole('button', { name: /^Play piece/ }).click();
  const player = page.locator('audio');
  await expect
    .poll(() => player.evaluate((audio: HTMLAudioElement) => audio.currentTime), { timeout: 15_000 })
    .toBeGreaterThan(0);
  expect(await player.evaluate((audio: HTMLAudioElement) => audio.duration)).toBeCloseTo(16, 1);
  await row.getByRole('button', { name: /^Close the player/ }).click();
  await expect(player).toHaveCount(0);

  await row.getByRole('button', { name: /^Remove piece/ }).click();
  await expect(row).toHaveCount(0);
  await page.getByRole('button', { name: 'Undo' }).click();
  await expect(row).toHaveCount(1);
  await expect(row).toContainText('verified');
});

test('what the spec asks for at the edges is added to all rows at once', async ({ page, desk }) => {
  await startJob(page, desk, 'A book');
  await dropFiles(
    page,
    Object.entries(CHAPTERS).map(([name, bytes]) => ({ name: `${name}.wav`, bytes })),
  );
  await page.getByRole('link', { name: 'bare' }).click();
  // The tabs go on with the programme that is open once the desk is there.
  await expect(page.getByRole('heading', { level: 1, name: 'bare' })).toBeVisible();
  await page.getByRole('link', { name: 'Hand over' }).click();
  await expect(page.getByRole('heading', { level: 1, name: 'bare' })).toBeVisible();
  const programme = page.getByRole('combobox', { name: 'Programme' });
  const wanted = { spec: /Audiobook retail/, file: 'MP3', bitRate: '192 kbit/s', levels: 'gain only' };
  await addDelivery(page, wanted);
  await programme.click();
  await page.getByRole('option', { name: 'silent' }).click();
  await expect(page.locator('tr[data-standing]')).toHaveCount(0);
  await addDelivery(page, wanted);
  await programme.click();
  await page.getByRole('option', { name: 'All 2 programmes' }).click();
  const rows = page.locator('tr[data-standing]');
  await expect(rows).toHaveCount(2);
  await expect(page.getByRole('button', { name: 'Add the missing room tone', exact: true })).toHaveCount(2, {
    timeout: 20_000,
  });
  await page.getByRole('button', { name: 'Add the missing room tone to 2 rows' }).click();
  await expect(rows.filter({ hasText: 'forecast ◆' })).toHaveCount(2, { timeout: 30_000 });
  await page.getByRole('button', { name: 'Write 2 deliveries' }).click();
  await expect(rows.filter({ hasText: 'verified' })).toHaveCount(2, { timeout: 60_000 });
});

test('a link is followed, even while what is looked at is written into the address', async ({ page, desk }) => {
  await openDesk(page, desk, 'Leaving', WAV);
  // It is written some 400 ms after the last change, and a little later by what keeps addresses.
  for (let delayMs = 395; delayMs <= 455; delayMs += 12) {
    await page.evaluate((ms) => {
      document.body.dispatchEvent(new KeyboardEvent('keydown', { key: '+', bubbles: true }));
      setTimeout(() => document.querySelector<HTMLElement>('a[href*="/hand-over"]')?.click(), ms);
    }, delayMs);
    await page.waitForURL(/hand-over/, { timeout: 5000 });
    await expect(page.getByRole('button', { name: 'Add a delivery' }).first()).toBeVisible();
    await page.getByRole('link', { name: 'Measure & set' }).click();
    await expect(plotOf(page)).toBeVisible();
  }
});
