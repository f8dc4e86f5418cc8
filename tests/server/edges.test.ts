/** Edges that a spec asks for, forecast before anything is written and added as room tone: read from the written file by FFmpeg. */
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { missedOf } from '@/core/spec/assessment';
import { addMissingEdges, addRow, clearEdges, predictionOf } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import { writeRow } from '@/server/deliveries/write-row';
import { viewJob } from '@/server/jobs/jobs';
import { CHAPTERS } from '../fixtures/chapters';
import { TestServer } from '../fixtures/server';

const MISSED = { bare: ['head', 'tail'], silent: ['room-tone'] };

/** Where FFmpeg finds less than a level for a time, as [start, end] in seconds. */
function quietIn(path: string, dbfs: number, seconds: number): [number, number][] {
  const filter = `silencedetect=noise=${dbfs}dB:duration=${seconds}`;
  const { stderr } = spawnSync('ffmpeg', ['-nostdin', '-i', path, '-af', filter, '-f', 'null', '-'], {
    encoding: 'utf8',
  });
  const starts = [...stderr.matchAll(/silence_start: (-?[\d.]+)/g)].map(([, at]) => Number(at));
  const ends = [...stderr.matchAll(/silence_end: ([\d.]+)/g)].map(([, at]) => Number(at));
  return starts.map((start, i) => [start, ends[i] ?? Number.POSITIVE_INFINITY]);
}

let host: TestServer;
beforeEach(() => {
  host = new TestServer();
});
afterEach(() => host.remove());

test.each(['bare', 'silent'] as const)(
  '%s edges are forecast as missed, added for the row alone, and then written so',
  async (name) => {
    const { programmeId } = await host.measured(CHAPTERS[name], `${name}.wav`);
    const { server } = host;
    const format = deliveryFormatSchema.parse({ kind: 'mp3', bitRateKbps: 192 });
    const levelMode = { kind: 'solved', maxReductionDb: 0, marginDb: 0 } as const;
    const row = () => addRow(server, { programmeId, specId: 'audiobook-retail', format, levelMode });
    const [mended, untouched] = [row(), row()];
    const rowOf = (id: string) => viewSheet(server, host.jobId).rows.find((row) => row.id === id);

    const before = await predictionOf(server, mended);
    expect(before.verdict.inside).toBe(false);
    expect(missedOf(before.verdict).map(({ key }) => key)).toEqual(MISSED[name]);
    expect(rowOf(mended.id)).toMatchObject({ canAddEdges: true });

    expect(await addMissingEdges(server, mended.id)).toBe(true);
    expect(await addMissingEdges(server, mended.id)).toBe(false);
    expect(rowOf(mended.id)).toMatchObject({ canAddEdges: false, prediction: { verdict: { inside: true } } });
    expect((await predictionOf(server, untouched)).verdict.inside).toBe(false);

    await writeRow(server, mended.id);
    await host.server.runner.whenIdle();
    const [file] = viewJob(server, host.jobId).programmes[0]?.deliveries.flatMap((delivery) => delivery.files) ?? [];
    const path = join(host.root, 'deliveries', host.jobId, file?.fileName ?? '');
    // A voice stands far above −55 dBFS, the room far below; what is added is neither more nor less than was asked for.
    const quiet = quietIn(path, -55, 0.4);
    expect(quiet[0]?.[0]).toBeLessThan(0.01);
    expect(quiet[0]?.[1]).toBeGreaterThanOrEqual(0.5);
    expect(quiet[0]?.[1]).toBeLessThanOrEqual(1);
    const [tailStart = 0, end = 0] = quiet.at(-1) ?? [];
    expect(Math.min(end, 40) - tailStart).toBeGreaterThanOrEqual(1);
    // None of it is digital silence, but what the coder itself adds.
    expect(quietIn(path, -100, 0.1)).toEqual([]);

    clearEdges(server, mended.id);
    expect((await predictionOf(server, mended)).verdict.inside).toBe(false);
    expect(rowOf(mended.id)).toMatchObject({ canAddEdges: true });
  },
);
