import { setTimeout as delay } from 'node:timers/promises';
import type { Page } from '@playwright/test';
import { type Desk, dropFiles, expect, startJob, test } from './desk';
import { tone } from './sine-file';

/** Whatever a page asks for by itself, it has asked for by then. */
const SETTLED_MS = 1000;

/** The data, and the pages, that a page asks the server for. */
function asked(page: Page): string[] {
  const requests: string[] = [];
  page.on('request', (request) => {
    const { pathname, search } = new URL(request.url());
    // Sound and curves are not what a task changes.
    const isSound = /^\/api\/programmes\/[^/]+\//.test(pathname);
    const isData = (pathname.startsWith('/api/') && !isSound) || request.method() === 'POST';
    if (isData || search.includes('_rsc')) requests.push(pathname + search);
  });
  return requests;
}

const jobIdOf = (page: Page) => /[0-9a-f-]{36}/.exec(page.url())?.[0] ?? '';

async function api(desk: Desk, path: string, body?: object) {
  const init = body && { method: 'POST', body: JSON.stringify(body) };
  return (await fetch(`${desk.base}/api/${path}`, init)).json();
}

async function programmesOf(desk: Desk, page: Page): Promise<{ id: string; title: string }[]> {
  return (await api(desk, `jobs/${jobIdOf(page)}`)).programmes;
}

/** Puts a row on the sheet of a programme, and tells it to whoever looks at it. */
async function addRow(desk: Desk, programmeId: string): Promise<string> {
  const row = { programmeId, specId: 'ebu-r128', format: { kind: 'wav' }, levelMode: { kind: 'as-set' } };
  const { rowId } = await api(desk, 'rows', row);
  await delay(SETTLED_MS);
  return rowId;
}

/** Has a delivery written, by nobody who looks at a page. */
async function write(desk: Desk, rowId: string): Promise<void> {
  const { deliveryId } = await api(desk, `rows/${rowId}/write`, {});
  await expect.poll(async () => (await api(desk, `deliveries/${deliveryId}`)).written).not.toBeNull();
  await delay(SETTLED_MS);
}

test('what a task has touched is fetched again, and nothing else', async ({ page, desk }) => {
  await startJob(page, desk, 'Two programmes');
  await dropFiles(page, [tone(desk, 'first.wav', -20), tone(desk, 'second.wav', -26)]);
  for (const name of ['first.wav', 'second.wav']) {
    await expect(page.getByRole('row', { name })).toContainText(/−\d+\.\d LUFS/);
  }
  const jobId = jobIdOf(page);
  const programmes = await programmesOf(desk, page);
  const idOf = (title: string) => programmes.find((own) => own.title === title)?.id ?? '';
  const [first, second] = [idOf('first'), idOf('second')];

  await page.goto(`${desk.base}/jobs/${jobId}/measure-and-set?programme=${first}`);
  await expect(page.getByRole('heading', { name: 'first' })).toBeVisible();
  await delay(SETTLED_MS);
  let requests = asked(page);
  const rowOfSecond = await addRow(desk, second);
  // The list shows it at a glance.
  expect(requests).toEqual([`/api/jobs/${jobId}/programmes?spec=ebu-r128&offset=0&limit=60`]);
  requests.length = 0;
  await write(desk, rowOfSecond);
  expect(requests).toEqual([`/api/jobs/${jobId}/programmes?spec=ebu-r128&offset=0&limit=60`]);
  const rowOfFirst = await addRow(desk, first);
  requests.length = 0;
  await write(desk, rowOfFirst);
  expect(requests.sort()).toEqual(
    [`/api/jobs/${jobId}/programmes?spec=ebu-r128&offset=0&limit=60`, `/api/programmes/${first}`].sort(),
  );

  await page.goto(`${desk.base}/jobs/${jobId}/hand-over?programme=${first}`);
  await expect(page.getByRole('heading', { name: 'first' })).toBeVisible();
  await delay(SETTLED_MS);
  requests = asked(page);
  await write(desk, await addRow(desk, second));
  expect(requests).toEqual([]);
});

test('a page that comes later than what has happened to it meanwhile shows it', async ({ page, desk }) => {
  await startJob(page, desk, 'Late');
  await dropFiles(page, [tone(desk, 'late.wav', -20)]);
  await expect(page.getByRole('row', { name: 'late.wav' })).toContainText(/−\d+\.\d LUFS/);
  const [first] = await programmesOf(desk, page);
  // A page may be asked for twice: once ahead, as the pointer comes near.
  let written: Promise<void> | undefined;
  await page.route(/hand-over\?.*_rsc=/, async (route) => {
    const made = await route.fetch();
    written ??= addRow(desk, first?.id ?? '').then((rowId) => write(desk, rowId));
    await written;
    await route.fulfill({ response: made });
  });
  await page.getByRole('link', { name: 'Hand over' }).click();
  await expect(page.locator('tr[data-standing="missed"]')).toContainText('late_ebu-r128_v1.wav');
});

test('a server that is gone is told, and what is said while it is gone loses nothing', async ({ page, desk }) => {
  await startJob(page, desk, 'Away');
  await dropFiles(page, [tone(desk, 'kept.wav', -20)]);
  await expect(page.getByRole('row', { name: 'kept.wav' })).toContainText(/−\d+\.\d LUFS/);
  await page.route('**/jobs/**', (route) => (route.request().method() === 'POST' ? route.abort() : route.continue()));
  await page.getByRole('row', { name: 'kept.wav' }).getByRole('button', { name: 'Edit' }).click();
  await page.getByLabel('Title').fill('');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('Enter a title')).toBeVisible();
  await page.getByLabel('Title').fill('Named while away');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByText('The server did not answer.', { exact: false })).toBeVisible();
  await page.unroute('**/jobs/**');
  await page.getByRole('button', { name: 'Save' }).click();
  await expect(page.getByRole('link', { name: 'Named while away' })).toBeVisible();
});
