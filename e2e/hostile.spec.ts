/** Names, tags, labels and XML that would be more than text: no page runs them, and each shows them as they are. */
import { HOSTILE_TEXTS, HOSTILE_XML, hostileWav } from '../tests/fixtures/hostile';
import { stereo, tone } from '../tests/fixtures/signals';
import { wavOf } from '../tests/fixtures/wav';
import { expect, test } from './desk';

const SOUND = Buffer.from(wavOf(stereo(tone([{ seconds: 2, levelDbfs: -23 }], 48_000)))).subarray(44);

test('every page shows hostile names as text, and runs none', async ({ page, desk }) => {
  const ask = async (method: string, path: string, body?: unknown) => {
    const isBytes = body instanceof Uint8Array;
    const response = await fetch(`${desk.base}${path}`, {
      method,
      ...(body === undefined ? {} : { body: isBytes ? new Uint8Array(body) : JSON.stringify(body) }),
    });
    return { status: response.status, value: await response.json().catch(() => undefined) };
  };
  let jobId = '';
  for (const name of HOSTILE_TEXTS) {
    const { status, value } = await ask('POST', '/api/jobs', { name });
    expect(status).toBe(201);
    jobId = value.jobId;
  }
  const programmeIds: string[] = [];
  for (const [at, name] of HOSTILE_TEXTS.entries()) {
    const path = `/api/jobs/${jobId}/sources?name=${encodeURIComponent(`${Buffer.from(name).toString()}.wav`)}`;
    const { status, value } = await ask('PUT', path, hostileWav(at, SOUND));
    expect(`${name} ${status}`).toMatch(/ 20[01]$/);
    if (status === 201) programmeIds.push(value.programmeId);
    await ask('PUT', `/api/programmes/${value.programmeId}/tags`, { title: name, artist: name, comment: name });
  }
  expect(programmeIds.length).toBeGreaterThan(HOSTILE_XML.length);
  for (const name of HOSTILE_TEXTS.slice(0, 6)) {
    await ask('POST', '/api/receivers', {
      name,
      kind: 'web-hook',
      address: 'https://intake.example/hook',
      secret: name,
    });
    await ask('POST', '/api/rows', {
      programmeId: programmeIds[0],
      specId: 'ebu-r128',
      format: { kind: 'wav', bitDepth: 24 },
      levelMode: { kind: 'as-set' },
    });
  }
  const members = programmeIds.slice(0, 4).map((programmeId) => ({ programmeId, gapSeconds: 1 }));
  await ask('POST', `/api/jobs/${jobId}/line-ups`, { kind: 'record', name: HOSTILE_TEXTS[1], members });

  page.on('dialog', () => {
    throw new Error('a dialog was opened');
  });
  const [first = ''] = HOSTILE_TEXTS;
  const stages = ['take-in', 'measure-and-set', 'line-up', 'hand-over?programme=all'];
  for (const path of [
    '/',
    ...stages.map((stage) => `/jobs/${jobId}/${stage}`),
    '/receivers',
    '/specs',
    '/live',
    '/storage',
  ]) {
    await page.goto(`${desk.base}${path}`);
    await expect(page.getByRole('main').or(page.getByRole('banner')).first()).toBeVisible();
    await page.waitForTimeout(300);
    expect(await page.evaluate(() => 'hacked' in window)).toBe(false);
    expect(await page.locator('img[src="x"], svg[onload]').count()).toBe(0);
  }
  await page.goto(`${desk.base}/jobs/${jobId}/take-in`);
  await expect(page.getByText(first, { exact: false }).first()).toBeVisible();
});
