/** The app where people sign in: an engineer adds a reviewer, who listens and approves. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Page } from '@playwright/test';
import { Served } from '../tests/fixtures/served';
import { stereo, tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { expectAccessible } from './axe';
import { dropFiles, expect, test } from './desk';

const PORT = 4386;
const [ANA, ROLF] = ['correct horse battery', 'other horse battery'];

async function signIn(page: Page, name: string, passphrase: string): Promise<void> {
  await page.getByLabel('Name').fill(name);
  await page.getByLabel('Passphrase').fill(passphrase);
  await page.getByRole('button', { name: 'Sign in' }).click();
}

test('an engineer signs in, works, and adds a reviewer, who approves what was written and changes nothing', async ({
  page,
  browser,
}) => {
  const data = mkdtempSync(join(tmpdir(), 'opsimeter-people-'));
  execFileSync(process.execPath, ['bin/opsimeter.mjs', 'people', 'add', 'Ana Lund', '--data', data], {
    input: `${ANA}\n`,
    env: { ...process.env, NODE_OPTIONS: '' },
  });
  const served = await Served.start(data, PORT, { OPSIMETER_PEOPLE: '1' });
  try {
    await page.goto(`${served.base}/specs`);
    await expect(page).toHaveURL(/\/sign-in\?next=%2Fspecs/);
    await expectAccessible(page);
    await signIn(page, 'Ana Lund', 'wrong horse battery');
    await expect(page.getByText('The name or the passphrase is wrong')).toBeVisible();
    await signIn(page, 'ana lund', ANA);
    await expect(page).toHaveURL(/\/specs/);
    await expect(page.getByText('Ana Lund, engineer')).toBeVisible();

    await page.goto(served.base);
    await page.getByLabel('New job').fill('For review');
    await page.getByRole('button', { name: 'Start the job' }).click();
    await page.waitForURL(/\/jobs\/.+\/take-in/);
    const bytes = Buffer.from(wavOf(stereo(tone([{ seconds: 4, levelDbfs: -23 }], 48_000))));
    await dropFiles(page, [{ name: 'episode.wav', bytes }]);
    await expect(page.getByRole('row', { name: 'episode.wav' })).toContainText(/−\d+\.\d LUFS/);
    const jobId = /jobs\/([^/]+)/.exec(page.url())?.[1] as string;
    const programme = page.getByRole('link', { name: 'episode', exact: true });
    const programmeId = /programme=([^&]+)/.exec((await programme.getAttribute('href')) ?? '')?.[1] as string;
    const { rowId } = await page.evaluate(async (id) => {
      const row = { programmeId: id, specId: 'ebu-r128', format: { kind: 'wav' }, levelMode: { kind: 'as-set' } };
      return (await fetch('/api/rows', { method: 'POST', body: JSON.stringify(row) })).json();
    }, programmeId);
    await page.evaluate((id) => fetch(`/api/rows/${id}/write`, { method: 'POST', body: '{}' }), rowId);

    await page.goto(`${served.base}/`);
    await page.getByRole('link', { name: 'People' }).click();
    await page.getByRole('textbox', { name: 'Name', exact: true }).fill('Rolf Aas');
    await page.locator('input[type=password]').fill(ROLF);
    await page.getByRole('button', { name: 'Add person' }).click();
    const people = page.getByRole('list', { name: 'People' });
    await expect(people).toContainText('Rolf Aas');
    await expect(people).toContainText('127.0.0.1');
    await expectAccessible(page);
    await page.getByLabel('Name of the program').fill('Uploader');
    await page.getByRole('button', { name: 'Make token' }).click();
    await expect(page.getByText('shown this once')).toBeVisible();

    const reviewing = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    await reviewing.goto(`${served.base}/jobs/${jobId}/hand-over?programme=all`);
    await signIn(reviewing, 'Rolf Aas', ROLF);
    await expect(reviewing).toHaveURL(/hand-over/);
    await expect(reviewing.getByText('Rolf Aas, reviewer')).toBeVisible();
    await expect(reviewing.getByRole('link', { name: 'People' })).toHaveCount(0);
    await reviewing.getByRole('button', { name: /^Approve / }).click();
    await expect(reviewing.getByText('approved by Rolf Aas')).toBeVisible();
    await reviewing.goto(served.base);
    await reviewing.getByRole('button', { name: 'Archive For review' }).click();
    await expect(reviewing.getByText('This is not for a reviewer.')).toBeVisible();
    await reviewing.getByRole('button', { name: 'Sign out' }).click();
    await expect(reviewing).toHaveURL(/sign-in/);

    await page.reload();
    await expect(page.getByRole('region', { name: 'Who did what' })).toContainText('file approved');
    await page.getByRole('button', { name: 'Remove Rolf Aas' }).click();
    await expect(people).not.toContainText('Rolf Aas');
  } finally {
    await served.kill('SIGTERM');
    rmSync(data, { recursive: true, force: true });
  }
});
