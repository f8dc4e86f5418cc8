/**
 * Twenty clients at work at once, over HTTP, while the app is killed again and again; at the end everything that was acknowledged is looked for:
 * npm run bench:soak [MINUTES] [SECONDS BETWEEN KILLS]. `npm run build` comes first. An hour, with a kill a minute, unless it is said.
 */
import { execFileSync, spawn } from 'node:child_process';
import { createHash, randomBytes } from 'node:crypto';
import { once } from 'node:events';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { cpus, tmpdir } from 'node:os';
import { join } from 'node:path';
import { setTimeout as delay } from 'node:timers/promises';
import Database from 'better-sqlite3';

const [minutes = 60, killSeconds = 60] = process.argv.slice(2).map(Number);
const CLIENTS = 20;
const PORT = 4391;
const BASE = `http://127.0.0.1:${PORT}`;
const RATE_HZ = 44_100;
const NOTHING_YET_MS = 100;

const folder = mkdtempSync(join(tmpdir(), 'opsimeter-soak-'));
const data = join(folder, 'data');
const env = {
  ...process.env,
  NODE_ENV: 'production',
  NODE_OPTIONS: '',
  OPSIMETER_DATA: data,
  OPSIMETER_KEY_FILE: join(folder, 'key'),
  PORT: String(PORT),
};

/** What was acknowledged, to be looked for at the end. */
const acknowledged = {
  jobs: new Map(),
  sources: new Map(),
  gains: new Map(),
  tags: new Map(),
  rows: new Set(),
  writes: new Map(),
  deleted: new Set(),
};
const answers = [];
const failures = new Map();
let server;
let isOver = false;

async function start() {
  const child = spawn(process.execPath, ['scripts/serve.mjs'], { env, stdio: ['ignore', 'pipe', 'ignore'] });
  await new Promise((resolve, reject) => {
    child.stdout.on('data', (bytes) => String(bytes).includes('is at') && resolve());
    child.once('exit', (code) => reject(new Error(`the server ended with ${code}`)));
  });
  return child;
}

async function end(child, signal) {
  const ended = once(child, 'exit');
  child.kill(signal);
  return (await ended)[0];
}

/** Asks until the app answers; undefined where what it answers is a refusal. What was on its way at a kill may be done twice: nothing here is the worse for it. */
async function ask(method, path, body) {
  for (;;) {
    const startedMs = performance.now();
    try {
      const isBytes = body instanceof Uint8Array;
      const response = await fetch(`${BASE}${path}`, {
        method,
        ...(body === undefined ? {} : { body: isBytes ? body : JSON.stringify(body) }),
      });
      const text = await response.text();
      answers.push({
        operation: `${method} ${path.replace(/[0-9a-f-]{36}/g, '…').replace(/\?.*/, '')}`,
        ms: performance.now() - startedMs,
      });
      if (response.ok) return text === '' ? {} : JSON.parse(text);
      const { error } = JSON.parse(text);
      failures.set(error.code, (failures.get(error.code) ?? 0) + 1);
      // Where somebody else was at it, or it is full for the moment, it is asked again.
      if (response.status !== 503) return undefined;
    } catch {
      // Killed under way, or not there yet.
    }
    if (isOver) return undefined;
    await delay(NOTHING_YET_MS);
  }
}

/** Noise of some seconds: no two are the same. */
function wav(seconds) {
  const bytes = Buffer.alloc(44 + seconds * RATE_HZ * 4);
  bytes.write('RIFF');
  bytes.writeUInt32LE(bytes.length - 8, 4);
  bytes.write('WAVEfmt ', 8);
  for (const [at, value, size] of [
    [16, 16, 4],
    [20, 1, 2],
    [22, 2, 2],
    [24, RATE_HZ, 4],
    [28, RATE_HZ * 4, 4],
    [32, 4, 2],
    [34, 16, 2],
  ]) {
    if (size === 4) bytes.writeUInt32LE(value, at);
    else bytes.writeUInt16LE(value, at);
  }
  bytes.write('data', 36);
  bytes.writeUInt32LE(bytes.length - 44, 40);
  randomBytes(bytes.length - 44).copy(bytes, 44);
  for (let at = 45; at < bytes.length; at += 2) bytes[at] = (bytes.readInt8(at) >> 3) & 0xff;
  return bytes;
}

async function client(number) {
  for (let round = 0; !isOver; round++) {
    const name = `Client ${number}, ${round}`;
    const job = await ask('POST', '/api/jobs', { name });
    if (!job) continue;
    acknowledged.jobs.set(job.jobId, name);
    const bytes = wav(5 + (round % 20));
    const sha256 = createHash('sha256').update(bytes).digest('hex');
    const taken = await ask('PUT', `/api/jobs/${job.jobId}/sources?name=${number}-${round}.wav`, bytes);
    if (!taken) continue;
    acknowledged.sources.set(taken.programmeId, sha256);
    const isMeasured = async () =>
      (await ask('GET', `/api/jobs/${job.jobId}`))?.programmes?.some((own) => own.measured !== null);
    while (!isOver && !(await isMeasured())) await delay(200);
    const gainDb = -((number + round) % 12);
    if (await ask('PATCH', `/api/programmes/${taken.programmeId}/treatment`, { gainDb }))
      acknowledged.gains.set(taken.programmeId, gainDb);
    if (await ask('PUT', `/api/programmes/${taken.programmeId}/tags`, { title: name }))
      acknowledged.tags.set(taken.programmeId, name);
    const kinds = round % 3 === 0 ? ['wav', 'flac', 'mp3'] : ['wav'];
    for (const kind of kinds) {
      const row = await ask('POST', '/api/rows', {
        programmeId: taken.programmeId,
        specId: 'ebu-r128',
        format: { kind, ...(kind === 'wav' ? { bitDepth: 24 } : {}) },
        levelMode: { kind: 'solved', maxReductionDb: 6, marginDb: 0 },
        ...(kind === 'wav' && round % 4 === 0 ? { receiverId: 'network-desk' } : {}),
      });
      if (!row) continue;
      acknowledged.rows.add(row.rowId);
      const written = await ask('POST', `/api/rows/${row.rowId}/write`, {});
      if (written) acknowledged.writes.set(written.deliveryId, row.rowId);
    }
    await ask('GET', `/api/jobs/${job.jobId}/sheet`);
    if (round % 7 === 6 && (await ask('DELETE', `/api/jobs/${job.jobId}`))) acknowledged.deleted.add(job.jobId);
  }
}

const use = () => {
  const status = readFileSync(`/proc/${server.pid}/status`, 'utf8');
  return {
    megabytes: Math.round(Number(/VmRSS:\s+(\d+)/.exec(status)[1]) / 1000),
    handles: readdirSync(`/proc/${server.pid}/fd`).length,
    threads: Number(/Threads:\s+(\d+)/.exec(status)[1]),
  };
};
const megabytesOf = (path) => Number(execFileSync('du', ['-sm', path], { encoding: 'utf8' }).split('\t')[0]);

server = await start();
const first = use();
const until = Date.now() + minutes * 60_000;
const working = Promise.all(Array.from({ length: CLIENTS }, (_, number) => client(number)));
let kills = 0;
while (Date.now() < until) {
  await delay(Math.min(until - Date.now(), killSeconds * 1000 * (0.5 + Math.random())));
  if (Date.now() >= until) break;
  await end(server, 'SIGKILL');
  kills++;
  server = await start();
}
isOver = true;
await working;

/** What waits is done, and what three ends of the process in a row set aside is asked for again. */
const read = (sql) => {
  const db = new Database(join(data, 'opsimeter.db'), { readonly: true });
  try {
    return db.prepare(sql).all();
  } finally {
    db.close();
  }
};
let setAside = 0;
for (;;) {
  const failed = read(
    "select id, kind, subject_id as subject from tasks t where state = 'failed' and json_extract(error, '$.value.code') = 'set-aside' and not exists (select 1 from tasks n where n.kind = t.kind and n.subject_id = t.subject_id and n.created_at_ms > t.created_at_ms)",
  );
  for (const { id } of failed) {
    await fetch(`${BASE}/api/tasks/${id}`, { method: 'POST', body: JSON.stringify({ do: 'retry' }) });
    setAside++;
  }
  const left = read("select count(*) as n from tasks where state in ('queued', 'running')")[0].n;
  if (failed.length === 0 && left === 0) break;
  await delay(1000);
}
const last = use();
const lost = [];
const wrong = (text) => lost.push(text);
const hashOf = (path) => createHash('sha256').update(readFileSync(path)).digest('hex');
const rows = (table) => new Map(read(`select * from ${table}`).map((row) => [row.id, row]));
const [jobs, programmes, deliveryRows, deliveries] = ['jobs', 'programmes', 'delivery_rows', 'deliveries'].map(rows);
for (const [id, name] of acknowledged.jobs) if (jobs.get(id)?.name !== name) wrong(`job ${name}`);
for (const id of acknowledged.deleted) if (!jobs.get(id)?.deleted_at_ms) wrong(`deletion of ${id}`);
for (const [id, sha256] of acknowledged.sources) {
  const path = join(data, 'sources', sha256);
  if (programmes.get(id)?.source_sha256 !== sha256 || !existsSync(path) || hashOf(path) !== sha256)
    wrong(`source ${sha256}`);
}
for (const [id, gainDb] of acknowledged.gains) {
  const [row] = read(`select treatment from treatments where programme_id = '${id}' order by version desc limit 1`);
  if (JSON.parse(row?.treatment ?? '{"value":{}}').value.gainDb !== gainDb) wrong(`gain of ${id}`);
}
for (const [id, title] of acknowledged.tags) if (!programmes.get(id)?.tags?.includes(title)) wrong(`tags of ${id}`);
for (const id of acknowledged.rows) if (!deliveryRows.has(id)) wrong(`row ${id}`);
const isDeleted = (jobId) => jobs.get(jobId)?.deleted_at_ms;
const isWritten = ({ state }) => state === 'written';
for (const [id] of acknowledged.writes) {
  const delivery = deliveries.get(id);
  if (!delivery) wrong(`delivery ${id}`);
  // The job was deleted while it waited: it was cancelled.
  else if (!isWritten(delivery) && !isDeleted(delivery.job_id)) wrong(`delivery ${id}: ${delivery.state}`);
}
const named = new Map();
for (const delivery of [...deliveries.values()].filter(isWritten)) {
  for (const { fileName, sha256 } of JSON.parse(delivery.outcome).value.files) {
    named.set(join(data, 'deliveries', delivery.job_id, fileName), sha256);
  }
}
for (const [path, sha256] of named) if (!existsSync(path) || hashOf(path) !== sha256) wrong(`file ${path}`);
for (const entry of readdirSync(join(data, 'deliveries'), { recursive: true, withFileTypes: true })) {
  if (entry.isFile() && !named.has(join(entry.parentPath, entry.name))) wrong(`nobody names ${entry.name}`);
}
const twice = read(
  'select row_id, count(*) as n from deliveries where row_id is not null group by row_id having n > 1',
);
for (const { row_id: id, n } of twice) wrong(`row ${id} was written ${n} times`);
const received = read('select intake_id, key, count(*) as n from intake_items group by intake_id, key having n > 1');
for (const { key } of received) wrong(`${key} was received twice`);
const unsent = read("select id, state from transfers where state in ('open', 'checking')");
for (const { id, state } of unsent) wrong(`transfer ${id} is ${state}`);
if (read('pragma integrity_check')[0].integrity_check !== 'ok') wrong('the database');

const before = megabytesOf(data);
const code = await end(server, 'SIGTERM');
const byOperation = Map.groupBy ? Map.groupBy(answers, ({ operation }) => operation) : groupBy(answers);
function groupBy(list) {
  const groups = new Map();
  for (const own of list) groups.set(own.operation, [...(groups.get(own.operation) ?? []), own]);
  return groups;
}
console.log(`${cpus().length} × ${cpus()[0]?.model?.trim()}, Node ${process.version}`);
console.log(
  `${minutes} minutes, ${CLIENTS} clients, ${kills} kills, ${setAside} tasks set aside and asked for again; ended with ${code}`,
);
const counts = Object.entries(acknowledged).map(([what, all]) => `${all.size} ${what}`);
console.log(
  `acknowledged: ${counts.join(', ')}; files written: ${named.size}; transfers: ${read('select count(*) as n from transfers')[0].n}`,
);
console.log(`refusals: ${JSON.stringify(Object.fromEntries(failures))}`);
console.log(
  `process at first and at last: ${JSON.stringify(first)} ${JSON.stringify(last)}; data folder: ${before} MB, database ${Math.round(statSync(join(data, 'opsimeter.db')).size / 1e6)} MB`,
);
for (const [operation, own] of byOperation) {
  const ms = own.map((one) => one.ms).sort((a, b) => a - b);
  const at = (part) => ms[Math.min(ms.length - 1, Math.floor(part * ms.length))].toFixed(0).padStart(6);
  console.log(
    `${operation.padEnd(44)} ${String(ms.length).padStart(6)} answers, ms: median ${at(0.5)}, 95 % ${at(0.95)}, most ${at(1)}`,
  );
}
for (const text of lost) console.log(`LOST ${text}`);
console.log(lost.length === 0 ? 'nothing acknowledged was lost, and nothing was done twice' : `${lost.length} wrong`);
rmSync(folder, { recursive: true, force: true });
process.exitCode = lost.length > 0 ? 1 : 0;
