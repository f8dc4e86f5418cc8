/** How the app is, as whoever watches it from outside is told. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, renameSync, rmSync, symlinkSync } from 'node:fs';
import { join } from 'node:path';
import { Served } from '../fixtures/served';
import { TestServer } from '../fixtures/server';
import { tone } from '../fixtures/signals';
import { until } from '../fixtures/until';
import { wavOf } from '../fixtures/wav';

const PORT = 4398;
let host: TestServer;
let served: Served | undefined;
beforeEach(async () => {
  host = new TestServer();
  await host.server.close();
});
afterEach(async () => {
  await served?.kill();
  rmSync(host.root, { recursive: true, force: true });
});

const health = async () => {
  const response = await fetch(`${(served as Served).base}/api/health`);
  return { code: response.status, ...((await response.json()) as { status: string; checks: Record<string, unknown> }) };
};

test('it is well, says by what, and says so when its data folder is gone', async () => {
  served = await Served.start(host.root, PORT);
  expect(await health()).toMatchObject({
    code: 200,
    status: 'ok',
    checks: {
      database: { isWell: true },
      dataFolder: { isWell: true },
      space: { isWell: true, freeBytes: expect.any(Number) },
      ffmpeg: { isWell: true },
      queue: { isWell: true, waiting: 0, running: 0, oldestWaitsSeconds: null },
    },
  });
  const away = `${host.root}-away`;
  renameSync(host.root, away);
  expect(await health()).toMatchObject({ code: 503, status: 'failing', checks: { dataFolder: { isWell: false } } });
  renameSync(away, host.root);
  expect(await health()).toMatchObject({ code: 200, status: 'ok' });
});

test('without FFmpeg it is degraded, and still answers', async () => {
  const bin = join(host.root, 'bin');
  mkdirSync(bin);
  for (const program of ['node', 'setpriv', 'which']) {
    const path = execFileSync('which', [program], { encoding: 'utf8' }).trim();
    symlinkSync(path, join(bin, program));
  }
  served = await Served.start(host.root, PORT, { PATH: bin });
  expect(await health()).toMatchObject({ code: 200, status: 'degraded', checks: { ffmpeg: { isWell: false } } });
});

test('figures are in the text format of Prometheus, and count what was done', async () => {
  served = await Served.start(host.root, PORT);
  const { base } = served;
  const wav = new Uint8Array(wavOf([tone([{ seconds: 1, levelDbfs: -20 }], 48_000)]));
  const put = await fetch(`${base}/api/jobs/${host.jobId}/sources?name=a.wav`, { method: 'PUT', body: wav });
  expect(put.headers.get('x-request-id')).toMatch(/^[0-9a-f-]{36}$/);
  await until(async () =>
    (await (await fetch(`${base}/api/metrics`)).text()).includes('kind="measure",state="done"} 1'),
  );
  const response = await fetch(`${base}/api/metrics`);
  expect(response.headers.get('content-type')).toContain('text/plain; version=0.0.4');
  const text = await response.text();
  // As the format has it (prometheus.io, Exposition formats): a name, labels in braces, a number; or a remark.
  const line =
    /^(# (HELP|TYPE) [a-z_:][\w:]* .+|[a-z_:][\w:]*(\{(\w+="([^"\\\n]|\\.)*",?)+\})? (NaN|[+-]?(Inf|[\d.]+(e[+-]?\d+)?)))$/;
  for (const own of text.trim().split(/\n+/)) expect(own).toMatch(line);
  expect(text).toMatch(
    /opsimeter_answer_seconds_count\{operation="\/api\/jobs\/\{jobId\}\/sources",method="PUT",status="201"\} 1/,
  );
  for (const name of [
    'opsimeter_tasks_waiting',
    'opsimeter_free_bytes',
    'nodejs_eventloop_lag_seconds',
    'process_resident_memory_bytes',
  ]) {
    expect(text).toMatch(new RegExp(`^${name} [\\d.]`, 'm'));
  }
});

test('what is logged of a request has its number, and nothing that is secret', async () => {
  served = await Served.start(host.root, PORT, { OPSIMETER_LOG: 'info' });
  const answer = await fetch(`${served.base}/api/jobs/none/sheet`);
  expect(answer.status).toBe(404);
  const id = answer.headers.get('x-request-id');
  await until(() => served?.said.includes(`"request":"${id}"`));
  const line = served.said.split('\n').find((own) => own.includes(`${id}`));
  expect(JSON.parse(line ?? '')).toMatchObject({ method: 'GET', operation: '/api/jobs/{jobId}/sheet', status: 404 });
});
