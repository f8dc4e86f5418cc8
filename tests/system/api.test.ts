/** The whole of a hand-over by HTTP alone, each answer held against what is documented of it; and the description itself. */
import { readdirSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { Validator } from '@seriousme/openapi-schema-validator';
import type * as z from 'zod';
import { certificateSchema } from '@/core/delivery/certificate';
import { openApi } from '@/server/http/openapi';
import type { Operation } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { until } from '../fixtures/until';
import { wavOf } from '../fixtures/wav';

const PORT = 4395;

let host: TestServer;
let served: Served;
beforeAll(async () => {
  host = new TestServer();
  await host.server.close();
  served = await Served.start(host.root, PORT);
});
afterAll(async () => {
  await served.kill();
  rmSync(host.root, { recursive: true, force: true });
});

type Operations = typeof OPERATIONS;
/** What is answered where all goes well, as it is documented. */
type Answer<N extends keyof Operations> = Operations[N] extends { answer?: infer A extends z.ZodType }
  ? z.output<A>
  : undefined;

/** Asks as documented, and holds the answer against the documentation. */
async function ask<N extends keyof Operations>(
  name: N,
  params: Record<string, string> = {},
  body?: unknown,
  query = '',
): Promise<Answer<N>> {
  const own = OPERATIONS[name] as Operation;
  const path = own.path.replace(/\{(\w+)\}/g, (_, key: string) => encodeURIComponent(params[key] ?? ''));
  const isBytes = own.body === 'bytes';
  const response = await fetch(`${served.base}${path}${query}`, {
    method: own.method,
    ...(body === undefined ? {} : { body: isBytes ? (body as BodyInit) : JSON.stringify(body) }),
  });
  const text = await response.text();
  if (response.status !== (own.status ?? 200)) throw new Error(`${name}: ${response.status} ${text}`);
  return (own.status === 204 ? undefined : (own.answer as z.ZodType).parse(JSON.parse(text))) as Answer<N>;
}

/** What is answered where something else than what is documented as its success comes. */
async function refused(method: string, path: string, body: unknown): Promise<[number, string]> {
  const response = await fetch(`${served.base}${path}`, { method, body: JSON.stringify(body) });
  const { error } = (await response.json()) as { error: { code: string; happened: string } };
  return [response.status, `${error.code}: ${error.happened}`];
}

test('a file goes in, a delivery and its certificate come out, and nobody has opened a page', async () => {
  const { jobId } = await ask('createJob', {}, { name: 'By wire' });
  expect((await ask('listJobs')).map(({ id }) => id)).toContain(jobId);
  const wav = wavOf(stereo(tone([{ seconds: 5, levelDbfs: -30 }], 48_000)));
  const { programmeId } = await ask('takeIn', { jobId }, wav, '?name=tone.wav');
  const measured = await until(async () => (await ask('viewJob', { jobId })).programmes[0]?.measured);
  // A 1 kHz sine in both channels reads its peak level: EBU Tech 3341, case 1, by its own gain.
  expect(measured.readings.integratedLufs).toBeCloseTo(-30, 1);
  const set = await ask('changeTreatment', { programmeId }, { gainDb: 3 });
  expect(set.treatment.gainDb).toBe(3);
  // What is left out stays.
  expect((await ask('changeTreatment', { programmeId }, { removeDc: true })).treatment).toMatchObject({
    gainDb: 3,
    removeDc: true,
  });
  await ask('setTags', { programmeId }, { title: 'A tone', isrc: 'US-S1Z-99-00001' });
  const { rowId } = await ask(
    'addRow',
    {},
    {
      programmeId,
      specId: 'ebu-r128',
      format: { kind: 'flac' },
      levelMode: { kind: 'solved', maxReductionDb: 0 },
    },
  );
  const prediction = await ask('predictRow', { rowId });
  expect(prediction.verdict.inside).toBe(true);
  const { deliveryId } = await ask('writeRow', { rowId });
  const delivery = await until(async () => {
    const seen = await ask('viewDelivery', { deliveryId });
    return seen.written ? seen : undefined;
  });
  expect(delivery.written?.readings.integratedLufs).toBeCloseTo(-23, 2);
  // The task ends behind what it has written.
  await until(async () => (await ask('viewTask', { taskId: delivery.task?.taskId ?? '' })).state === 'done');
  const file = await fetch(`${served.base}/api/deliveries/${deliveryId}/file`);
  expect(
    Buffer.from(await file.arrayBuffer())
      .subarray(0, 4)
      .toString(),
  ).toBe('fLaC');
  const certificate = await fetch(`${served.base}/api/deliveries/${deliveryId}/certificate?as=json`);
  expect(certificateSchema.parse(await certificate.json())).toMatchObject({ inside: true, programme: 'tone' });
  const { rows } = await ask('viewSheet', { jobId });
  expect(rows).toMatchObject([{ id: rowId, isStale: false, delivery: { id: deliveryId } }]);

  // It goes to an intake that does not accept FLAC, which is told.
  const { transferId } = await ask('sendDelivery', { deliveryId }, { receiverId: 'network-desk' });
  const transfer = await until(async () => {
    const seen = await ask('viewTransfer', { transferId });
    return seen.state === 'refused' ? seen : undefined;
  });
  expect(transfer.reasons).toEqual([expect.stringContaining('is not WAV or BW64')]);
  await ask('changeRow', { rowId }, { format: { kind: 'wav' }, receiverId: 'network-desk' });
  expect((await ask('viewSheet', { jobId })).rows[0]).toMatchObject({
    levelMode: { kind: 'solved' },
    receiver: { id: 'network-desk' },
    isStale: false,
    prediction: null,
  });
  const { deliveryId: next } = await ask('writeRow', { rowId });
  await until(async () => (await ask('viewSheet', { jobId })).rows[0]?.transfer?.state === 'accepted');
  expect(await refused('POST', `/api/deliveries/${next}/decision`, { decision: 'discard' })).toEqual([
    400,
    expect.stringContaining('only a file that misses its spec'),
  ]);
  await ask('removeRow', { rowId });
  expect((await ask('viewSheet', { jobId })).rows).toEqual([]);
});

test('specs and receivers by HTTP; what can not be understood is said field by field', async () => {
  const [first] = await ask('listSpecs');
  const own = await ask('saveSpec', {}, { ...first, id: 'my-station', name: 'My station' });
  expect(await ask('viewSpec', { specId: own.id })).toMatchObject({ name: 'My station', basis: { kind: 'own' } });
  const receiver = await ask(
    'addReceiver',
    {},
    {
      name: 'Theirs',
      kind: 'put',
      address: 'https://their.example',
      secret: 'between-us',
    },
  );
  expect(receiver).toMatchObject({ hasSecret: true, isBuiltIn: false });
  await ask('changeReceiver', { receiverId: receiver.id }, { ...receiver, name: 'Still theirs' });
  expect(JSON.stringify(await ask('listReceivers'))).not.toContain('between-us');
  await ask('removeReceiver', { receiverId: receiver.id });
  expect(await refused('POST', '/api/jobs', { name: '' })).toEqual([400, expect.stringContaining('name:')]);
  expect(await refused('POST', '/api/rows', { programmeId: 'none' })).toEqual([400, expect.stringContaining('specId')]);
  expect(await refused('PATCH', '/api/programmes/none/treatment', { loudness: 9 })).toEqual([
    400,
    expect.stringContaining('loudness'),
  ]);
  expect(await refused('POST', '/api/tasks/none', { do: 'retry' })).toEqual([404, expect.any(String)]);
});

test('names and addresses of the first version are still read', async () => {
  const { jobId } = await ask('createJob', {}, { name: 'As before' });
  const wav = wavOf(stereo(tone([{ seconds: 2, levelDbfs: -29 }], 48_000)));
  const { programmeId } = await ask('takeIn', { jobId }, wav, '?name=before.wav');
  await until(async () => (await ask('viewJob', { jobId })).programmes[0]?.measured);
  expect(
    await ask('changeTreatment', { programmeId }, { keep: { startFrame: 4800, endFrame: null }, trimDb: -1 }),
  ).toMatchObject({ treatment: { trim: { startFrame: 4800, endFrame: null }, outputGainDb: -1 } });
  const added = await fetch(`${served.base}/api/lines`, {
    method: 'POST',
    body: JSON.stringify({ programmeId, specId: 'ebu-r128', format: { kind: 'wav' }, way: { kind: 'as-set' } }),
  });
  expect(added.status).toBe(201);
  const { rowId } = (await added.json()) as { rowId: string };
  const forecast = await fetch(`${served.base}/api/lines/${rowId}/prediction`);
  expect(forecast.status).toBe(200);
  expect((await ask('viewSheet', { jobId })).rows).toMatchObject([{ id: rowId, levelMode: { kind: 'as-set' } }]);
});

test('what is described is what there is, by the OpenAPI schema', async () => {
  const described = await ask('openApi');
  expect(described).toEqual(JSON.parse(JSON.stringify(openApi())));
  // The schemas of the OpenAPI Initiative, https://spec.openapis.org, as that package ships them.
  const { valid, errors } = await new Validator().validate(described);
  expect(errors ?? '').toEqual('');
  expect(valid).toBe(true);
  const routes = 'src/app/api';
  const there = readdirSync(routes, { recursive: true, encoding: 'utf8' })
    .filter((path) => path.endsWith('route.ts') && !path.startsWith('uploads'))
    .flatMap((path) => {
      const text = readFileSync(join(routes, path), 'utf8');
      const address = `/api/${path.replace(/\/route\.ts$/, '').replace(/\[(\w+)\]/g, '{$1}')}`;
      return [...text.matchAll(/export (?:const|async function|function) ([A-Z]+)\b/g)].map(
        ([, method]) => `${method} ${address}`,
      );
    });
  const documented = Object.values(OPERATIONS).map(({ method, path }) => `${method} ${path}`);
  expect(there.sort()).toEqual(documented.sort());
});
