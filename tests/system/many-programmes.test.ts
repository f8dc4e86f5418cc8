/** A job of 2,000 programmes: what its pages send, and that all of them can be reached. */
import { rmSync } from 'node:fs';
import { gzipSync } from 'node:zlib';
import { addLike } from '../fixtures/many-programmes';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { stereo, tone } from '../fixtures/signals';
import { wavOf } from '../fixtures/wav';

const PORT = 4397;
const PROGRAMMES = 2000;
const MOST_BYTES = 300_000;

let host: TestServer;
let served: Served;
let jobAddress: string;

beforeAll(async () => {
  host = new TestServer();
  const { programmeId } = await host.measured(
    wavOf(stereo(tone([{ seconds: 4, levelDbfs: -20 }], 48_000))),
    'first.wav',
  );
  addLike(host.server, programmeId, PROGRAMMES - 1);
  await host.server.close();
  served = await Served.start(host.root, PORT);
  jobAddress = `${served.base}/jobs/${host.jobId}`;
});
afterAll(async () => {
  await served.kill();
  rmSync(host.root, { recursive: true, force: true });
});

test.each([
  ['take-in', ''],
  ['measure-and-set', ''],
  ['measure-and-set, deep in the list', '?programme=LAST'],
  ['hand-over', ''],
])('%s sends less than 300 kB', async (stage, query) => {
  const [segment = ''] = stage.split(',');
  const last = `${host.jobId.slice(0, 8)}-${PROGRAMMES - 2}`;
  const response = await fetch(`${jobAddress}/${segment}${query.replace('LAST', last)}`);
  expect(response.status).toBe(200);
  const html = await response.text();
  // As it is, not as it is packed on the way; the list of names of the hand-over packs well.
  const bytes = segment === 'hand-over' ? gzipSync(html).length : Buffer.byteLength(html);
  console.info(`${stage}: ${Math.round(bytes / 1000)} kB`);
  expect(bytes).toBeLessThan(MOST_BYTES);
  if (query) expect(html).toContain(`Episode ${PROGRAMMES - 1} of a long season`);
});

test('the parts of a list are the whole of it, in order, each programme once', async () => {
  const ids: string[] = [];
  for (let offset = 0; offset < PROGRAMMES; offset += 500) {
    const answer = await fetch(
      `${served.base}/api/jobs/${host.jobId}/programmes?spec=ebu-r128&offset=${offset}&limit=500`,
    );
    const part = (await answer.json()) as { total: number; rows: { id: string }[] };
    expect(part.total).toBe(PROGRAMMES);
    ids.push(...part.rows.map(({ id }) => id));
  }
  expect(new Set(ids).size).toBe(PROGRAMMES);
  expect(ids.slice(1)).toEqual(Array.from({ length: PROGRAMMES - 1 }, (_, n) => `${host.jobId.slice(0, 8)}-${n}`));
});
