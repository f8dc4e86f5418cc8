/** Every operation of the API, asked in ways that its description forbids: each is refused in words, none is a fault of the app's own. */
import { existsSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { seededRandom } from '@/cli/demo/random';
import type { Operation } from '@/server/http/operation';
import { OPERATIONS } from '@/server/http/operations';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const PORT = 4385;
const EACH = Number(process.env.OPSIMETER_TEST_EACH ?? 25);
/** Nothing that is refused takes long. */
const MOST_MS = 20_000;

let host: TestServer;
let served: Served;
let known: Record<string, string[]>;
beforeAll(async () => {
  host = new TestServer();
  const { programmeId } = await host.measured(wavOf(stereo(tone([{ seconds: 3, levelDbfs: -23 }], 48_000))));
  known = { jobId: [host.jobId], programmeId: [programmeId], specId: ['ebu-r128'], receiverId: ['network-desk'] };
  await host.server.close();
  served = await Served.start(host.root, PORT);
});
afterAll(async () => {
  await served.kill();
  rmSync(host.root, { recursive: true, force: true });
});

const ODD_TEXT = [
  '',
  ' ',
  '0',
  '-1',
  'NaN',
  '1e309',
  'null',
  'undefined',
  '__proto__',
  'constructor',
  'x'.repeat(300),
  '../../opsimeter.db',
  '%00',
  '\u0000',
  '🎚',
  "' OR 1=1 --",
  '{constructor}',
  '[1',
  '{"a":1}',
];
const ODD_VALUES: readonly unknown[] = [
  null,
  true,
  0,
  -1,
  1e308,
  2 ** 53,
  0.5,
  [],
  {},
  [[]],
  { __proto__: null, constructor: 'x' },
  ...ODD_TEXT,
];

interface Schema {
  type?: string | string[];
  properties?: Record<string, Schema>;
  items?: Schema;
  anyOf?: Schema[];
  oneOf?: Schema[];
  enum?: unknown[];
  const?: unknown;
}

/** Something of the shape that a schema has, wrong in places: it gets past the first check, to fail at a later one. */
function nearly(schema: Schema, random: () => number): unknown {
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
  if (random() < 0.2) return pick(ODD_VALUES);
  const choices = schema.anyOf ?? schema.oneOf;
  if (choices) return nearly(pick(choices), random);
  if (schema.const !== undefined) return schema.const;
  if (schema.enum) return pick(schema.enum);
  const type = Array.isArray(schema.type) ? pick(schema.type) : schema.type;
  if (type === 'object' || schema.properties) {
    const entries = Object.entries(schema.properties ?? {}).filter(() => random() < 0.85);
    return Object.fromEntries(entries.map(([name, own]) => [name, nearly(own, random)]));
  }
  if (type === 'array') {
    return Array.from({ length: Math.floor(3 * random()) }, () => nearly(schema.items ?? {}, random));
  }
  if (type === 'integer' || type === 'number') return pick([0, 1, -1, -23, 0.5, 48_000, 1e15]);
  if (type === 'boolean') return random() < 0.5;
  if (type === 'null') return null;
  return pick([...ODD_TEXT, ...Object.values(known).flat()]);
}

interface Described {
  parameters?: { name: string; in: string; schema: Schema }[];
  requestBody?: { content: Record<string, { schema?: Schema }> };
}

const names = Object.keys(OPERATIONS) as (keyof typeof OPERATIONS)[];

test('no name in an address leads to a file that is another’s', async () => {
  const victims = ['recordings/victim.wav', 'victim.wav', 'passes/victim.wav', 'covers/victim', 'victim'];
  for (const name of victims) writeFileSync(join(host.root, name), 'somebody’s work');
  const ways = [
    'victim',
    '../recordings/victim',
    '../victim',
    '../victim.wav',
    '..',
    '.',
    '../../victim',
    '..\\victim',
  ];
  for (const name of names) {
    const own = OPERATIONS[name] as Operation;
    if (own.answer === 'events' || !own.path.includes('{')) continue;
    for (const way of ways) {
      const path = own.path.replaceAll(/\{\w+\}/g, encodeURIComponent(way));
      await fetch(`${served.base}${path}`, { method: own.method, ...(own.body ? { body: '{}' } : {}) });
    }
  }
  const left = victims.filter((name) => existsSync(join(host.root, name)));
  expect(left).toEqual(victims);
});

test('no operation answers with a fault of its own, whatever is asked of it', async () => {
  // Another one, and more of each, by hand: so many other requests.
  const seed = Number(process.env.OPSIMETER_TEST_SEED ?? 1);
  const random = seededRandom(seed);
  const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;
  const description = (await (await fetch(`${served.base}/api/openapi.json`)).json()) as {
    paths: Record<string, Record<string, Described>>;
  };
  const faults: string[] = [];
  const statuses = new Map<number, number>();
  for (const name of names) {
    const own = OPERATIONS[name] as Operation;
    // It goes on for as long as it is listened to.
    if (own.answer === 'events') continue;
    const described = description.paths[own.path]?.[own.method.toLowerCase()] ?? {};
    for (let k = 0; k < EACH; k++) {
      const path = own.path.replace(/\{(\w+)\}/g, (_, key: string) =>
        encodeURIComponent(pick([...(known[key] ?? []), ...(known[key] ?? []), 'none', ...ODD_TEXT.filter(Boolean)])),
      );
      const query = new URLSearchParams();
      for (const parameter of described.parameters ?? []) {
        if (parameter.in !== 'query' || random() < 0.2) continue;
        const value = nearly(parameter.schema, random);
        query.append(parameter.name, typeof value === 'string' ? value : JSON.stringify(value));
      }
      const schema = described.requestBody?.content['application/json']?.schema;
      const isBytes = own.body === 'bytes';
      const body = isBytes
        ? pick(['', 'RIFF', 'PK\u0003\u0004', '\u0000'.repeat(1000)])
        : schema
          ? pick([
              JSON.stringify(nearly(schema, random)),
              '{',
              '',
              '"',
              '[]',
              '\ud800',
              JSON.stringify(pick(ODD_VALUES)),
            ])
          : undefined;
      const response = await fetch(`${served.base}${path}?${query}`, {
        method: own.method,
        ...(body === undefined ? {} : { body }),
        signal: AbortSignal.timeout(MOST_MS),
      }).catch((error: unknown) => {
        throw new Error(`${own.method} ${path}?${query} ${String(body).slice(0, 300)}`, { cause: error });
      });
      const text = await response.text();
      statuses.set(response.status, (statuses.get(response.status) ?? 0) + 1);
      if (response.status >= 500 && response.status !== 507) {
        faults.push(
          `${own.method} ${path}?${query} ${String(body).slice(0, 200)}: ${response.status} ${text.slice(0, 300)}`,
        );
      }
      if (response.status >= 400 && own.method !== 'HEAD' && !own.path.startsWith('/api/uploads')) {
        expect(`${own.method} ${path} ${text.slice(0, 60)}`).toMatch(/\{"error":\{"code":/);
      }
    }
  }
  console.info(`seed ${seed}: ${JSON.stringify(Object.fromEntries([...statuses].sort()))}`);
  expect(faults).toEqual([]);
  // It goes on as if nothing had been.
  expect((await fetch(`${served.base}/`)).status).toBe(200);
  expect(host.read('pragma integrity_check')).toEqual([{ integrity_check: 'ok' }]);
});
