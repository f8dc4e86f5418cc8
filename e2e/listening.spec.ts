/** Listening while setting: what the browser hears is what is written, what it reads of it is what the file reads, and how it is controlled. */
import { join } from 'node:path';
import { build } from 'esbuild';
import { music } from '@/cli/demo/synth';
import { treatmentSchema } from '@/core/treatment/treatment';
import type { Listened } from '@/features/measure-and-set/audition/playable';
import { PcmReader } from '@/formats/pcm-reader';
import { FileSource } from '@/workers/node/file-bytes';
import { wavOf } from '../tests/fixtures/wav';
import { handOver } from './delivering';
import { dropFiles, expect, startJob, test } from './desk';

/** What the bundle puts there. */
interface WithAuditionPage {
  AuditionPage: typeof import('./audition-page');
}

const SECONDS = 6;
const SECTIONS = [
  { startSeconds: 0, level: 0.1, drums: 0 },
  { startSeconds: 1, level: 1.1, drums: 1 },
];
/** −120 dBFS. */
const INAUDIBLE = 1e-6;
const song = (rate: number) => wavOf(music(SECONDS, rate, SECTIONS, 21), { sampleRateHz: rate });

async function samplesOf(path: string): Promise<Float32Array[]> {
  const source = await FileSource.open(path);
  try {
    const reader = await PcmReader.open(source, path);
    const { channels, frames } = reader.header.format;
    const all = Array.from({ length: channels }, () => new Float32Array(frames));
    for (let piece = await reader.next(); piece; piece = await reader.next()) {
      const at = reader.frame - piece.frames;
      const { frames: count } = piece;
      piece.channels.forEach((samples, c) => {
        all[c]?.set(samples.subarray(0, count), at);
      });
    }
    return all;
  } finally {
    await source.close();
  }
}

for (const rate of [44_100, 48_000, 96_000]) {
  test(`what the worklet puts out is the file that is written, to −120 dBFS, at ${rate} Hz`, async ({ page, desk }) => {
    await startJob(page, desk, `Heard at ${rate}`);
    await dropFiles(page, [{ name: 'song.wav', bytes: song(rate) }]);
    await page.getByRole('link', { name: 'song' }).click();
    await page.getByRole('checkbox', { name: 'Limiter on' }).check();
    await page.getByLabel('gain', { exact: true }).fill('6');
    await page.keyboard.press('Enter');
    await page.getByRole('checkbox', { name: 'Fades on' }).check();
    await expect(page.getByRole('status')).toHaveText('all saved');
    const programmeId = new URL(page.url()).searchParams.get('programme') as string;

    const { outputFiles } = await build({
      entryPoints: ['e2e/audition-page.ts'],
      bundle: true,
      write: false,
      format: 'iife',
      globalName: 'AuditionPage',
      alias: { '@': './src' },
    });
    // As a debugger does it: the page itself runs nothing that its server has not named.
    await page.evaluate(`${outputFiles[0]?.text ?? ''}; window.AuditionPage = AuditionPage;`);
    const fade = { frames: Math.round(rate / 2), shape: 's-curve' } as const;
    const treatment = treatmentSchema.parse({
      gainDb: 6,
      limit: { ceilingDbtp: -1 },
      fadeIn: fade,
      fadeOut: fade,
    });
    const format = { channels: 2, channelMask: 0, frames: SECONDS * rate, sampleRateHz: rate };
    const source = { programmeId, sha256: 'song', layout: 'stereo' };
    const heard = await page.evaluate(
      ([listened, own, rateHz]) =>
        (globalThis as unknown as WithAuditionPage).AuditionPage.heardOffline(listened as Listened, own, rateHz),
      [{ source, format, layoutId: null }, treatment, rate] as const,
    );

    await handOver(page);
    const waiting = page.waitForEvent('download');
    await page.getByRole('link', { name: /^Download/ }).click();
    const path = join(desk.scratch, `heard ${rate}.wav`);
    await (await waiting).saveAs(path);
    let greatest = 0;
    (await samplesOf(path)).forEach((written, c) => {
      const own = new Float32Array(Uint8Array.from(Buffer.from(heard[c] as string, 'base64')).buffer);
      expect(own.length).toBe(written.length);
      written.forEach((sample, n) => {
        greatest = Math.max(greatest, Math.abs(sample - (own[n] ?? Number.NaN)));
      });
    });
    console.log(`heard and written differ by ${(20 * Math.log10(greatest)).toFixed(1)} dBFS at most, at ${rate} Hz`);
    expect(greatest).toBeLessThanOrEqual(INAUDIBLE);
  });
}

test('a whole play-through is read as the file is, and sound comes soon after the key', async ({ page, desk }) => {
  await startJob(page, desk, 'Play-through');
  await dropFiles(page, [{ name: 'song.wav', bytes: song(48_000) }]);
  await page.getByRole('link', { name: 'song' }).click();
  await page.getByRole('checkbox', { name: 'Limiter on' }).check();
  await page.getByLabel('gain', { exact: true }).fill('5');
  await page.keyboard.press('Enter');
  await expect(page.getByRole('status')).toHaveText('all saved');
  const live = page.getByRole('group', { name: 'Live readings' });
  await page.getByRole('heading', { name: 'song' }).click();
  await page.keyboard.press('f');
  const soundAfterMs = await page.evaluate(
    () =>
      new Promise<number>((resolve) => {
        const clock = document.querySelector('[data-clock]') as HTMLElement;
        const before = clock.textContent;
        const startedMs = performance.now();
        new MutationObserver((_, observer) => {
          if (clock.textContent === before) return;
          observer.disconnect();
          resolve(performance.now() - startedMs);
        }).observe(clock, { characterData: true, subtree: true, childList: true });
        document.body.dispatchEvent(new KeyboardEvent('keydown', { key: ' ', bubbles: true }));
      }),
  );
  console.log(`sound ${soundAfterMs.toFixed(0)} ms after the key`);
  await expect(page.getByRole('button', { name: 'Pause', exact: true })).toBeVisible();
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible({ timeout: 20_000 });
  const read = async (name: string, what: 'value' | 'most') =>
    Number(await live.locator(`[data-reading="${name}"]`).getAttribute(`data-${what}`));
  const heard = {
    I: await read('I', 'value'),
    TP: await read('TP', 'value'),
    S: await read('S', 'most'),
    M: await read('M', 'most'),
    LRA: await read('LRA', 'value'),
  };
  await page.getByRole('button', { name: 'Reset meters' }).click();
  await expect(live.locator('[data-reading="I"]')).toContainText('◌');

  await handOver(page);
  const waiting = page.waitForEvent('download');
  await page.getByRole('link', { name: /^Download/ }).click();
  const path = join(desk.scratch, 'played.wav');
  await (await waiting).saveAs(path);
  const { measureFile } = await import('@/workers/node/measure-file');
  const { readings } = (await measureFile(path)).report;
  expect(Math.abs(heard.I - (readings.integratedLufs ?? Number.NaN))).toBeLessThanOrEqual(0.05);
  expect(Math.abs(heard.S - (readings.maxShortTermLufs ?? Number.NaN))).toBeLessThanOrEqual(0.05);
  expect(Math.abs(heard.M - (readings.maxMomentaryLufs ?? Number.NaN))).toBeLessThanOrEqual(0.05);
  expect(Math.abs(heard.LRA - (readings.loudnessRangeLu ?? Number.NaN))).toBeLessThanOrEqual(0.05);
  expect(Math.abs(heard.TP - (readings.truePeakDbtp ?? Number.NaN))).toBeLessThanOrEqual(0.05);

  // What was listened to for some seconds is a version that stays.
  await page.getByRole('link', { name: 'Measure & set' }).click();
  await expect(page.getByRole('button', { name: /^v1/ })).toContainText('written');
});

test('playing is controlled by mouse and by key: versions, loop, mono, what is taken', async ({ page, desk }) => {
  await startJob(page, desk, 'Controls');
  await dropFiles(page, [{ name: 'song.wav', bytes: song(48_000) }]);
  await page.getByRole('link', { name: 'song' }).click();
  const heading = page.getByRole('heading', { name: 'song' });
  const heard = page.getByRole('combobox', { name: 'Heard' });
  await heard.click();
  await page.getByRole('option', { name: 'before' }).click();
  await expect(heard).toContainText('before');
  await heading.click();
  await page.keyboard.press('b');
  await expect(heard).toContainText('current settings');
  await page.keyboard.press('b');
  await expect(heard).toContainText('before');
  for (const [key, name] of [
    ['e', 'equally loud'],
    ['x', 'mono'],
    ['d', 'removed'],
    ['o', 'Loop the span'],
  ] as const) {
    const control = page.getByRole('button', { name });
    const was = await control.getAttribute('aria-pressed');
    await page.keyboard.press(key);
    await expect(control).not.toHaveAttribute('aria-pressed', was as string);
    await control.click();
    await expect(control).toHaveAttribute('aria-pressed', was as string);
    await heading.click();
  }
  // Space plays, whatever was clicked last.
  for (const clicked of [
    page.getByRole('checkbox', { name: 'Limiter on' }),
    page.getByRole('tab', { name: 'Loudest' }),
  ]) {
    await clicked.click();
    await page.keyboard.press('Space');
    await expect(page.getByRole('button', { name: 'Pause' })).toBeVisible();
    await page.keyboard.press('Space');
    await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  }
  await expect(page.getByRole('checkbox', { name: 'Limiter on' })).toBeChecked();
  await page.keyboard.press('Control+z');

  // A span of a second goes round and round.
  await page.keyboard.press('o');
  const trace = page.getByRole('slider', { name: /^Trace/ });
  await trace.focus();
  await page.keyboard.press('[');
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight');
  const until = page.getByLabel('Span end');
  await page.keyboard.press('[');
  await until.fill('2.0');
  await page.keyboard.press('Enter');
  await page.getByLabel('Span start').fill('1.0');
  await page.keyboard.press('Enter');
  await page.getByRole('group', { name: 'Span' }).getByRole('button', { name: 'Play' }).click();
  const second = async () => Number((await page.locator('[data-clock]').textContent())?.split(':')[1]);
  // Looked at often, and never in step with the loop.
  const often = { intervals: [70, 110, 130], timeout: 15_000 };
  await expect.poll(second, often).toBeGreaterThan(1.5);
  await expect.poll(second, often).toBeLessThan(1.4);
  expect(await second()).toBeGreaterThanOrEqual(0.99);
  await heading.click();
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play', exact: true }).first()).toBeVisible();
});

test('playing and pausing follow the keys, however late the worklet tells what it does', async ({ page, desk }) => {
  await page.addInitScript((lateMs) => {
    const port = Object.getOwnPropertyDescriptor(AudioWorkletNode.prototype, 'port');
    Object.defineProperty(AudioWorkletNode.prototype, 'port', {
      get(this: AudioWorkletNode) {
        const own: MessagePort = port?.get?.call(this);
        if (Object.hasOwn(own, 'onmessage')) return own;
        return Object.defineProperty(own, 'onmessage', {
          set(take: (event: MessageEvent) => void) {
            own.addEventListener('message', (event) => setTimeout(take, lateMs, event));
            own.start();
          },
        });
      },
    });
  }, 400);
  await startJob(page, desk, 'Late');
  await dropFiles(page, [{ name: 'song.wav', bytes: song(48_000) }]);
  await page.getByRole('link', { name: 'song' }).click();
  const button = page.getByRole('button', { name: /^(Play|Pause)$/ });
  const stays = async (name: string) => {
    for (let look = 0; look < 12; look++) {
      expect(await button.getAttribute('aria-label')).toBe(name);
      await page.waitForTimeout(70);
    }
  };
  await expect(button).toBeVisible();
  await page.keyboard.press('Space');
  await expect(page.locator('[data-clock]')).not.toHaveText(/^0:00\.0/);
  // What was told before a key still arrives after it, and counts for nothing.
  await page.keyboard.press('Space');
  await page.keyboard.press('Space');
  await stays('Pause');
  await page.keyboard.press('Space');
  await stays('Play');
});

test('where the sound does not come, the desk says so, and goes on when it comes', async ({ page, desk }) => {
  await startJob(page, desk, 'Line down');
  await dropFiles(page, [{ name: 'song.wav', bytes: song(48_000) }]);
  await page.getByRole('link', { name: 'song' }).click();
  await expect(page.getByRole('slider', { name: /^Trace/ })).toBeVisible();
  await page.route('**/frames?**', (route) => route.abort());
  // From somewhere that has not been fetched ahead.
  await page.getByRole('slider', { name: /^Trace/ }).click({ position: { x: 500, y: 60 } });
  await page.getByRole('button', { name: 'Play', exact: true }).click();
  await expect(page.getByText('The sound could not be loaded. Retrying automatically.')).toBeVisible();
  const clock = page.locator('[data-clock]');
  const stopped = await clock.textContent();
  await page.unroute('**/frames?**');
  await expect(page.getByText('The sound could not be loaded')).toBeHidden();
  await expect(clock).not.toHaveText(stopped ?? '');
});
