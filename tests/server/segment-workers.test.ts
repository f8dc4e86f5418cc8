/** One file on several threads: the same result as on one, cancelled at once, and told of on the way. */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { seededRandom } from '@/cli/demo/random';
import { AppError } from '@/core/errors/app-error';
import { AnalysisReader, AnalysisWriter } from '@/workers/node/analysis-file';
import { measureFile } from '@/workers/node/measure-file';
import { WorkerPool } from '@/workers/node/pool';
import type { MeasureJob, Progress } from '@/workers/protocol';
import { buildWav, wavOf } from '../fixtures/wav';

const RATE = 44_100;
const SECONDS = 70;

let folder: string;
let pool: WorkerPool;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'opsimeter-segments-'));
  pool = new WorkerPool();
  const random = seededRandom(3);
  const samples = Float32Array.from(
    { length: SECONDS * RATE + 17 },
    (_, n) => 0.4 * Math.sin(n / 9) * (random() + 0.2),
  );
  samples.fill(1, 40 * RATE, 40 * RATE + 9);
  writeFileSync(at('programme.wav'), wavOf([samples, samples.map((x) => -x)], { sampleRateHz: RATE }));
});
afterAll(async () => {
  await pool.close();
  rmSync(folder, { recursive: true, force: true });
});

const at = (name: string) => join(folder, name);
const job = (analysisName: string | null): MeasureJob => ({
  kind: 'measure',
  path: at('programme.wav'),
  fileName: 'programme.wav',
  sha256: null,
  layoutId: null,
  origin: null,
  treatedBefore: null,
  analysisPath: analysisName === null ? null : at(analysisName),
});
const quietly = { signal: new AbortController().signal, onProgress: () => undefined };

test('readings, findings and everything that is kept are the same on any number of threads', async () => {
  let analysis: AnalysisWriter | undefined;
  const alone = await measureFile(at('programme.wav'), {
    fileName: 'programme.wav',
    onHeader: ({ format }) => {
      analysis = new AnalysisWriter(at('alone.bin'), format);
    },
    onSegment: (segment) => analysis?.add(segment),
  });
  analysis?.finish(alone.measurement.series);
  for (let run = 0; run < 3; run++) {
    const { sha256, ...report } = await pool.run(job('together.bin'), quietly);
    expect(report).toEqual(alone.report);
    expect(sha256).toMatch(/^[0-9a-f]{64}$/);
    expect(readFileSync(at('together.bin')).equals(readFileSync(at('alone.bin')))).toBe(true);
  }
  expect(alone.report.readings.clippedRuns).toBe(2);
});

test('what is kept comes back: series whole, waveforms level by level', async () => {
  const { measurement, report } = await measureFile(at('programme.wav'));
  await pool.run(job('kept.bin'), quietly);
  const analysis = await AnalysisReader.open(at('kept.bin'));
  try {
    expect(await analysis.series()).toEqual(measurement.series);
    for (const [level, bucketFrames] of [256, 4096, 65_536].entries()) {
      const [left, right] = await analysis.waveforms(level);
      expect(left?.max).toHaveLength(Math.ceil(report.format.frames / bucketFrames));
      expect(left?.max.reduce((a, b) => Math.max(a, b))).toBe(1);
      expect(right?.min.reduce((a, b) => Math.min(a, b))).toBe(-1);
    }
  } finally {
    await analysis.close();
  }
});

test('measuring a long file tells how far it is, and is cancelled within 100 ms', async () => {
  // Hours of silence in no space at all: the data are a hole in the file.
  const path = at('long.wav');
  const dataBytes = 4_000_000_000;
  writeFileSync(path, buildWav({ sampleRateHz: 48_000, bits: 24, statedDataBytes: dataBytes }));
  const { truncate } = await import('node:fs/promises');
  await truncate(path, 44 + dataBytes);
  const cancelling = new AbortController();
  const told: Progress[] = [];
  let cancelledAtMs = 0;
  const running = pool.run(
    { ...job(null), path },
    {
      signal: cancelling.signal,
      onProgress: (progress) => {
        told.push(progress);
        if (told.length < 5) return;
        cancelledAtMs ||= performance.now();
        cancelling.abort();
      },
    },
  );
  const error = await running.catch((thrown: unknown) => thrown);
  const tookMs = performance.now() - cancelledAtMs;
  expect(error).toBeInstanceOf(AppError);
  expect((error as AppError).code).toBe('cancelled');
  expect(tookMs).toBeLessThan(100);
  expect(told.every(({ fraction }, i) => i === 0 || fraction > (told[i - 1]?.fraction ?? 0))).toBe(true);
  // The pool is whole again.
  expect((await pool.run(job(null), quietly)).readings.clippedRuns).toBe(2);
});

test('several files at once take the threads in turns, and none is kept waiting for good', async () => {
  const reports = await Promise.all(Array.from({ length: 5 }, () => pool.run(job(null), quietly)));
  for (const report of reports) expect(report).toEqual(reports[0]);
});
