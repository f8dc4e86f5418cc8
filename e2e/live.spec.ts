/** Lines on screen: a simulated line with its faults, alarms, markers and recording; and an input of the browser's own machine. */
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { musicLike } from '../tests/fixtures/material';
import { wavOf } from '../tests/fixtures/wav';
import { browserWithInput, expect, startJob, test } from './desk';

const reading = (page: Page, name: string) => page.locator(`[data-reading="${name}"]`);
const shown = async (page: Page, name: string) => Number(await reading(page, name).getAttribute('data-value'));

/** A line on the page of all: other tests leave theirs there. */
const cardOf = (page: Page, name: string) => page.getByRole('listitem').filter({ hasText: name });

/** Adds a line by the form on the page of all lines, which then is shown. */
async function addLine(page: Page, name: string, kind: string): Promise<void> {
  await page.getByRole('link', { name: 'Lines', exact: true }).click();
  await page.getByRole('button', { name: 'Add a line' }).click();
  const dialog = page.getByRole('dialog', { name: 'Add a line' });
  await dialog.getByLabel('Name').fill(name);
  await dialog.getByRole('radio', { name: kind }).click();
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(page.getByRole('heading', { level: 1, name })).toBeVisible();
}

test('a simulated line is measured, goes wrong, is told, marked, recorded, and becomes a programme', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Evening');
  await addLine(page, 'Dome feed', 'a simulation');
  await expect(page.locator('[data-line-state="off"]')).toBeVisible();
  await page.getByRole('button', { name: 'Turn on' }).click();
  await expect(page.locator('[data-line-state="sounding"]')).toBeVisible();
  await expect(reading(page, 'I')).toHaveAttribute('data-value', /^-2\d/);
  // What is drawn moves: short-term loudness is there after 3 s.
  await expect(reading(page, 'S')).toHaveAttribute('data-value', /^-2\d/);

  await page.getByRole('button', { name: 'Record', exact: true }).click();
  await expect(page.locator('[data-recording]')).toContainText('recording 0:0');
  await page.keyboard.press('m');
  await expect(page.locator('[data-event="marker"]')).toContainText('marker 1');
  await page.getByRole('button', { name: 'Too hot' }).click();
  const over = page.locator('[data-event="over"]');
  await expect(over).toContainText('dB over the ceiling (L, R)');
  await expect(over).toContainText('goes on');
  await page.getByRole('button', { name: 'Too hot' }).click();
  await expect(over).toContainText(/\d\.\d s$/);
  expect(await shown(page, 'TP')).toBeGreaterThan(-1);

  // An alarm comes as it is set.
  await page.getByRole('button', { name: 'Alarms' }).click();
  const alarms = page.getByRole('dialog', { name: 'Alarms of Dome feed' });
  const silence = alarms.getByRole('listitem').filter({ hasText: 'Every channel stays under a level.' });
  await silence.getByLabel('For').fill('0');
  await alarms.getByRole('button', { name: 'Save' }).click();
  await expect(alarms.getByText('For can be 1 s at least')).toBeVisible();
  await silence.getByLabel('For').fill('1,5');
  await alarms.getByRole('button', { name: 'Save' }).click();
  await expect(alarms).toBeHidden();
  await page.getByRole('button', { name: 'Silence' }).click();
  await expect(page.locator('[data-event="silence"]')).toContainText('goes on');
  await page.getByRole('button', { name: 'Silence' }).click();

  // Paused, what grows with a programme stands still.
  await page.keyboard.press('p');
  await expect(page.getByText(/^\d+:\d\d, paused$/)).toBeVisible();
  await page.keyboard.press('p');
  await expect(page.getByText(/^\d+:\d\d measured$/)).toBeVisible();

  await page.getByLabel('Planned length, minutes').fill('55');
  await page.getByLabel('Planned length, minutes').press('Enter');
  await expect(page.locator('[data-projection="average"]')).toContainText('LUFS');

  await page.getByRole('button', { name: 'Stop and take in' }).click();
  await page.getByRole('button', { name: 'Recordings' }).click();
  const recording = page.getByRole('link', { name: /^Dome feed \d{4}/ });
  await expect(recording).toBeVisible();
  await recording.click();
  await expect(page).toHaveURL(/measure-and-set/);
  await expect(page.getByRole('heading', { name: /^Dome feed/ }).first()).toBeVisible();
  await expect(page.getByText(/dBTP/).first()).toBeVisible();

  // The line goes on without a page, and is there as it was left.
  await page.getByRole('link', { name: 'Lines', exact: true }).click();
  await expect(cardOf(page, 'Dome feed').locator('[data-line-state="sounding"]')).toBeVisible();
  await page.getByRole('link', { name: 'Open Dome feed' }).click();
  await expect(page.locator('[data-event="marker"]')).toContainText('marker 1');
  await page.getByRole('button', { name: 'Turn off' }).click();
  await expect(page.locator('[data-line-state="off"]')).toBeVisible();
});

test('a stream that is not there says so, and an address that is not allowed is refused at its field', async ({
  page,
  desk,
}) => {
  await startJob(page, desk, 'Streams');
  await page.getByRole('link', { name: 'Lines', exact: true }).click();
  await page.getByRole('button', { name: 'Add a line' }).click();
  const dialog = page.getByRole('dialog', { name: 'Add a line' });
  await dialog.getByLabel('Name').fill('Elsewhere');
  await dialog.getByLabel('Address').fill('ftp://127.0.0.1/x');
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(dialog.getByRole('alert')).toContainText('An address begins with http://');
  await dialog.getByLabel('Address').fill('http://203.0.113.7/live');
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  await expect(dialog.getByRole('alert')).toContainText('OPSIMETER_LINE_HOSTS');
  await dialog.getByLabel('Address').fill('http://127.0.0.1:9/live');
  await dialog.getByRole('button', { name: 'Add', exact: true }).click();
  await page.getByRole('button', { name: 'Turn on' }).click();
  await expect(page.locator('[data-line-state="lost"]')).toBeVisible();
  await expect(page.getByRole('alert').filter({ hasText: 'could not be opened' })).toBeVisible();
  await page.getByRole('button', { name: 'Turn off' }).click();
  await expect(page.locator('[data-line-state="off"]')).toBeVisible();
  // What can't be done is answered in words, whichever part of the app says it.
  const lineId = page.url().split('/').at(-1);
  const refused = await page.request.post(`${desk.base}/api/live/${lineId}/control`, { data: { do: 'marker' } });
  expect([refused.status(), (await refused.json()).error.code]).toEqual([409, 'line-off']);
  await page.getByRole('button', { name: 'Edit' }).click();
  await page.getByRole('button', { name: 'Delete line' }).click();
  await expect(page.getByRole('heading', { name: 'Lines' })).toBeVisible();
  await expect(page.getByRole('link', { name: 'Open Elsewhere' })).toHaveCount(0);
});

/** What a line read at the end of each 100 ms, by number, as the server tells it to whoever listens. */
type Moments = Record<number, Record<string, number | null>>;

test('an input of this machine is heard as its device gives it, recorded to the sample, and read as its file is', async ({
  desk,
}) => {
  // A second browser, twelve seconds of sound, and every sample of it looked for.
  test.slow();
  const rateHz = 44_100;
  const loopFrames = 6 * rateHz;
  const file = join(desk.scratch, 'input.wav');
  const sound = musicLike().map((samples) => samples.slice(0, loopFrames).map((x) => Math.round(x * 32_000) / 32_768));
  writeFileSync(file, wavOf(sound, { sampleRateHz: rateHz, bits: 16 }));
  const browser = await browserWithInput(file);
  try {
    const page = await browser.newPage();
    await startJob(page, desk, 'Inputs');
    await addLine(page, 'Desk microphone', 'an input of this machine');
    const lineId = page.url().split('/').at(-1) as string;
    const api = async <T>(path: string) => (await (await page.request.get(`${desk.base}/api/${path}`)).json()) as T;
    await page.evaluate((address) => {
      const moments: Moments = {};
      Object.assign(window, { moments });
      new EventSource(address).onmessage = ({ data }) => {
        const told = JSON.parse(data) as { kind: string; moments: { bin: number; readings: Moments[number] }[] };
        if (told.kind === 'moments') for (const { bin, readings } of told.moments) moments[bin] = readings;
      };
    }, `/api/live/stream?line=${lineId}`);
    await expect(page.getByRole('button', { name: 'Connect' })).toBeDisabled();
    await page.getByRole('button', { name: 'Turn on' }).click();
    await page.getByRole('button', { name: 'Connect' }).click();
    await expect(page.getByText('2 channels, 44.1 kHz. Keep this window open.')).toBeVisible();
    await expect(page.locator('[data-line-state="sounding"]')).toBeVisible();
    // With all that came since it was connected.
    await page.getByRole('button', { name: 'options' }).click();
    await page.getByRole('radio', { name: '30 s ago' }).click();
    await page.keyboard.press('Escape');
    await page.getByRole('button', { name: 'Record', exact: true }).click();
    await expect(page.locator('[data-recording]')).toContainText(/recording 0:(09|[1-5]\d)/, { timeout: 30_000 });
    await page.getByRole('button', { name: 'Stop and take in' }).click();
    const { frames, gaps, programmeId } = await expect
      .poll(async () => {
        const { recordings } = await api<{ recordings: Recorded[] }>(`live/${lineId}/recordings`);
        return recordings[0]?.programmeId;
      })
      .not.toBeNull()
      .then(() => api<{ recordings: Recorded[] }>(`live/${lineId}/recordings`))
      .then(({ recordings: [own] }) => ({
        frames: own?.facts.frames ?? 0,
        gaps: own?.facts.gaps ?? [],
        programmeId: own?.programmeId ?? '',
      }));
    expect(frames).toBeGreaterThan(9 * rateHz);

    // Sample for sample what the device has: from some place of its file on, round and round. A browser that gets no time loses parts
    // of it, and the app names each: what lies between two of these is whole.
    await expect.poll(async () => (await api<Measured>(`programmes/${programmeId}`)).measured).not.toBeNull();
    const { sha256, measured } = await api<Measured>(`programmes/${programmeId}`);
    const recorded = samplesOf(readFileSync(join(desk.data(), 'sources', sha256)), frames);
    // The device is silent at first.
    const first = recorded[0].findIndex((x, n) => x !== 0 || recorded[1][n] !== 0);
    expect(first).toBeLessThan(rateHz);
    expect(gaps.reduce((sum, gap) => sum + gap.frames, 0)).toBeLessThan(frames / 5);
    const starts = [first, ...gaps.map((gap) => gap.startFrame + gap.frames)];
    for (const [i, start] of starts.entries()) {
      const end = gaps[i]?.startFrame ?? frames;
      const isPlayed = Array.from({ length: loopFrames }, (_, at) => at).some((at) =>
        isSound(recorded, start, end, sound, at),
      );
      expect(isPlayed, `from ${start} to ${end}, as the device played it`).toBe(true);
    }

    const moments = await page.evaluate(() => (window as unknown as { moments: Moments }).moments);
    const last = moments[Math.floor((10 * frames) / rateHz) - 1];
    for (const key of ['integratedLufs', 'loudnessRangeLu', 'maxMomentaryLufs', 'maxShortTermLufs', 'truePeakDbtp']) {
      expect(Math.abs((last?.[key] ?? Number.NaN) - (measured?.readings[key] ?? Number.NaN))).toBeLessThan(0.01);
    }

    // It goes on on other pages of this window.
    await page.getByRole('link', { name: 'All lines' }).click();
    await page.waitForTimeout(3500);
    await expect(cardOf(page, 'Desk microphone').locator('[data-line-state="sounding"]')).toBeVisible();
    // Another window takes its place, and says so to this one; when that is closed, the line is lost.
    const other = await browser.newPage();
    await other.goto(`${desk.base}/live/${lineId}`);
    await other.getByRole('button', { name: 'Connect' }).click();
    await expect(other.getByText('Keep this window open.')).toBeVisible();
    await page.getByRole('link', { name: 'Open Desk microphone' }).click();
    await expect(page.getByText('Not connected: another window sends it now.')).toBeVisible();
    await expect(other.locator('[data-line-state="sounding"]')).toBeVisible();
    await other.close();
    await expect(page.locator('[data-line-state="lost"]')).toBeVisible();
  } finally {
    await browser.close();
  }
});

/** Chromium reads 16 bits to floats in a way of its own. */
const STEP_OF_16_BITS = 1 / 32_768;

interface Recorded {
  facts: { frames: number; gaps: { startFrame: number; frames: number }[] };
  programmeId: string | null;
}

interface Measured {
  sha256: string;
  measured: { readings: Record<string, number | null> } | null;
}

/** Whether frames are those of a sound that is played over and over, of which the first is `at`. */
function isSound(
  recorded: readonly Float64Array[],
  start: number,
  end: number,
  sound: readonly Float32Array[],
  at: number,
): boolean {
  for (let n = start; n < end; n++) {
    for (const [c, samples] of sound.entries()) {
      const played = samples[(at + n - start) % samples.length] ?? 0;
      if (Math.abs((recorded[c]?.[n] ?? 9) - played) > STEP_OF_16_BITS) return false;
    }
  }
  return true;
}

/** Left and right of a stereo file of 24 bits. */
function samplesOf(bytes: Buffer, frames: number): [Float64Array, Float64Array] {
  const data = bytes.subarray(bytes.indexOf('data') + 8);
  const channel = (c: number) =>
    Float64Array.from({ length: frames }, (_, n) => data.readIntLE(6 * n + 3 * c, 3) / 2 ** 23);
  return [channel(0), channel(1)];
}
