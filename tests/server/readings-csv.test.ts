/** All readings of a job as CSV, read back by another program, and held against FFmpeg's. */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { parse } from 'csv-parse/sync';
import { isAppError } from '@/core/errors/app-error';
import { changeProgramme, removeProgramme } from '@/server/jobs/programmes';
import { readingsCsv } from '@/server/jobs/readings-csv';
import { ffmpegLoudness } from '../fixtures/command';
import { musicLike } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { wavOf } from '../fixtures/wav';

let host: TestServer;
beforeAll(() => {
  host = new TestServer();
});
afterAll(() => host.remove());

test('a row for each programme that is in the job, with what was read of its source', async () => {
  const pieces = [0.5, 0.25, 0.1].map((gain) =>
    wavOf(musicLike().map((samples) => samples.slice(0, 480_000).map((x) => gain * x))),
  );
  const ids: string[] = [];
  for (const [i, bytes] of pieces.entries()) ids.push((await host.measured(bytes, `piece ${i + 1}.wav`)).programmeId);
  changeProgramme(host.server, ids[0] as string, { title: '=SUM(A1), "loud"' });
  removeProgramme(host.server, ids[2] as string, true);
  const { fileName, text } = readingsCsv(host.server, host.jobId);
  expect(fileName).toBe('test-job_readings.csv');
  const rows = parse(text, { columns: true }) as Record<string, string>[];
  expect(rows.map((row) => [row.title, row.file])).toEqual([
    [`'=SUM(A1), "loud"`, 'piece 1.wav'],
    ['piece 2', 'piece 2.wav'],
  ]);
  rows.forEach((row, i) => {
    expect([row['duration (s)'], row['sample rate (Hz)'], row['bit depth'], row.channels]).toEqual([
      '10',
      '48000',
      '24',
      '2',
    ]);
    const path = join(host.root, `${i}.wav`);
    writeFileSync(path, pieces[i] as Buffer);
    const read = ffmpegLoudness(path);
    expect(Math.abs(Number(row['Integrated (LUFS)']) - read.integratedLufs)).toBeLessThanOrEqual(0.06);
    expect(row['SHA-256']).toMatch(/^[0-9a-f]{64}$/);
  });
});

test('a job that is not there has none', () => {
  try {
    readingsCsv(host.server, 'none');
    throw new Error('it was answered');
  } catch (error) {
    expect(isAppError(error, 'not-found')).toBe(true);
  }
});
