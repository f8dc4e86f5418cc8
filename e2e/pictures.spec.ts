/**
 * What is drawn, held against pictures that were looked at: a drawing that breaks fails here. After a change that is meant, look at what
 * `npx playwright test pictures --update-snapshots` makes before it is kept.
 */
import { readFileSync } from 'node:fs';
import { createRequire } from 'node:module';
import type { Page } from '@playwright/test';
import { type Certificate, certificateSchema } from '@/core/delivery/certificate';
import { certificatePdf } from '@/server/certificates/pdf';
import { tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { type Desk, expect, test } from './desk';
import { openDesk, PEAKY, plotOf, RATE } from './swell';

const THEMES = ['light', 'dark'] as const;
const ruleOf = (page: Page) => page.getByRole('region', { name: 'Rule' });

async function themed(page: Page, theme: (typeof THEMES)[number]): Promise<void> {
  await page.evaluate((chosen) => {
    document.documentElement.dataset.theme = chosen;
  }, theme);
}

test('the rule and the trace', async ({ page, desk }) => {
  await openDesk(page, desk, 'Pictures', PEAKY);
  await page.getByRole('checkbox', { name: 'Limiter on' }).check();
  await page.getByRole('button', { name: /Meet the target/ }).click();
  await expect(page.getByRole('list', { name: 'Verdict' })).toContainText('on target at −23.0 LUFS');
  await page.mouse.move(0, 0);
  for (const theme of THEMES) {
    await themed(page, theme);
    await expect(ruleOf(page)).toHaveScreenshot(`rule-${theme}.png`);
    await expect(plotOf(page)).toHaveScreenshot(`trace-${theme}.png`);
  }
});

test('the gauge', async ({ page, desk }) => {
  const steady = tone([{ seconds: 20, levelDbfs: -20 }], RATE, 997);
  await openDesk(page, desk, 'Gauge', wavOf([steady, steady]));
  await page.getByRole('heading', { name: 'swell' }).click();
  await page.keyboard.press('f');
  await page.keyboard.press('Space');
  // All of the ten seconds that it remembers are alike by then.
  const measured = page.getByRole('group', { name: 'Live readings' });
  await expect(measured).toContainText(/0:1[4-9] measured/, { timeout: 30_000 });
  await page.keyboard.press('Space');
  for (const theme of THEMES) {
    await themed(page, theme);
    await expect(page.locator('canvas[data-gauge]')).toHaveScreenshot(`gauge-${theme}.png`);
  }
});

test('the certificate, with letters beyond Latin-1', async ({ page, desk }) => {
  const certificate = await certified(page, desk);
  const pdf = await certificatePdf([certificate]);
  await page.setViewportSize({ width: 900, height: 1200 });
  await page.goto('about:blank');
  await drawPdf(page, pdf);
  await expect(page.locator('canvas')).toHaveScreenshot('certificate.png');
});

/** A certificate of a file that was written, but for what differs each time: names of people in letters of other languages instead. */
async function certified(page: Page, desk: Desk): Promise<Certificate> {
  await openDesk(page, desk, 'Certificate', PEAKY);
  await page.getByRole('button', { name: /Meet the target/ }).click();
  await page.getByRole('button', { name: 'Deliver', exact: true }).click();
  await expect(page.getByRole('row', { name: /swell_ebu-r128/ })).toContainText('verified');
  const jobId = new URL(page.url()).pathname.split('/')[2];
  const answer = await page.request.get(`${desk.base}/api/jobs/${jobId}/certificates?as=json`);
  const [first] = (await answer.json()) as unknown[];
  const issued = certificateSchema.parse(first);
  const hash = '0123456789abcdef'.repeat(4);
  const time = '2026-01-02T03:04:05.000Z';
  return {
    ...issued,
    programme: 'Dvořák: Rusalka, Łódź — Gőz',
    source: { ...issued.source, sha256: hash },
    files: issued.files.map((file) => ({ ...file, sha256: hash })),
    issuedAt: time,
    writtenAt: time,
  };
}

/** Draws the first page of a PDF on the page. */
async function drawPdf(page: Page, pdf: Buffer): Promise<void> {
  const { resolve } = createRequire(import.meta.url);
  const script = (name: string) => readFileSync(resolve(`pdfjs-dist/legacy/build/${name}.min.mjs`), 'utf8');
  const scripts = { library: script('pdf'), worker: script('pdf.worker') };
  await page.evaluate(
    async ({ library, worker, text }) => {
      const addressOf = (source: string) => URL.createObjectURL(new Blob([source], { type: 'text/javascript' }));
      const { getDocument, GlobalWorkerOptions } = await import(addressOf(library));
      GlobalWorkerOptions.workerSrc = addressOf(worker);
      const data = Uint8Array.from(atob(text), (character) => character.charCodeAt(0));
      const first = await (await getDocument({ data }).promise).getPage(1);
      const viewport = first.getViewport({ scale: 1.3 });
      const canvas = document.createElement('canvas');
      canvas.width = viewport.width;
      canvas.height = viewport.height;
      document.body.append(canvas);
      await first.render({ canvas, viewport }).promise;
    },
    { ...scripts, text: pdf.toString('base64') },
  );
}
