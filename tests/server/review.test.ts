/** Review copies: levels of a delivery, in a small file that says it is none; nothing else is changed. */
import { execFileSync } from 'node:child_process';
import { readdirSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { isAppError } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { orderBatch, viewBatch } from '@/server/batches/batches';
import { downloadReview, zipReviews } from '@/server/batches/download';
import { setTags } from '@/server/deliveries/rows';
import { viewSheet } from '@/server/deliveries/sheet';
import { changeTreatment, currentTreatment } from '@/server/treatments/treatments';
import { ffmpegLoudness, ffmpegTruePeakDbtp } from '../fixtures/command';
import { musicLike, surround } from '../fixtures/material';
import { TestServer } from '../fixtures/server';
import { gathered, unzipped } from '../fixtures/unzipped';
import { wavOf } from '../fixtures/wav';

const RATE = 48_000;
const SPEC = 'podcast-stereo';

let host: TestServer;
let song: string;
beforeEach(async () => {
  host = new TestServer();
  const piece = musicLike().map((samples) => samples.slice(0, 12 * RATE).map((x) => 0.6 * x));
  song = (await host.measured(wavOf(piece), 'A song.wav')).programmeId;
});
afterEach(() => host.remove());

async function reviewed(ids: readonly string[], maxReductionDb = 0, specId = SPEC) {
  const id = orderBatch(host.server, host.jobId, ids, { kind: 'review', specId, maxReductionDb });
  await host.server.runner.whenIdle();
  return viewBatch(host.server, id);
}
const folder = () => join(host.root, 'reviews', host.jobId);
const tagsOf = (path: string) =>
  JSON.parse(
    execFileSync('ffprobe', ['-v', 'error', '-show_entries', 'format_tags', '-of', 'json', path], { encoding: 'utf8' }),
  ).format.tags;

test('a song meets the target, says what it is, and is no delivery', async () => {
  setTags(host.server, song, { ...NO_TAGS, title: 'Song', artist: 'The band', isrc: 'QD1A22600001' });
  changeTreatment(host.server, song, { fadeOut: { frames: RATE, shape: 'linear' } });
  const before = JSON.stringify(currentTreatment(host.server, song)?.treatment);
  const { items } = await reviewed([song], 6);
  expect(items).toMatchObject([{ state: 'done', file: { fileName: 'A song (review copy).mp3' } }]);
  const path = join(folder(), 'A song (review copy).mp3');
  expect(Math.abs(ffmpegLoudness(path).integratedLufs - -16)).toBeLessThan(0.2);
  expect(ffmpegTruePeakDbtp(path)).toBeLessThan(-0.9);
  const tags = tagsOf(path);
  expect(tags).toMatchObject({
    title: 'Song (review copy)',
    artist: 'The band',
    comment: 'Review copy, not for release',
  });
  expect(JSON.stringify(tags)).not.toContain('QD1A22600001');
  expect(viewSheet(host.server, host.jobId, song).rows).toEqual([]);
  expect(readdirSync(join(host.root, 'deliveries'))).toEqual([]);
  expect(JSON.stringify(currentTreatment(host.server, song)?.treatment)).toBe(before);
});

test('one after another has a name of its own; what was altered is not given out', async () => {
  const { id } = await reviewed([song]);
  const { items } = await reviewed([song, song]);
  expect(items.map(({ file }) => file?.fileName)).toEqual(['A song (review copy 2).mp3']);
  expect(readdirSync(folder()).sort()).toEqual(['A song (review copy 2).mp3', 'A song (review copy).mp3']);
  expect(await downloadReview(host.server, id, 0)).toMatchObject({
    fileName: 'A song (review copy).mp3',
    mediaType: 'audio/mpeg',
  });
  writeFileSync(join(folder(), 'A song (review copy).mp3'), 'other bytes');
  const refused = await downloadReview(host.server, id, 0).catch((error) => error);
  expect(isAppError(refused, 'delivery-altered')).toBe(true);
});

test('of many each has its copy, and all come as one ZIP; of surround too', async () => {
  const film = surround().map((samples) => samples.slice(0, 6 * RATE));
  const { programmeId } = await host.measured(wavOf(film, { channelMask: 0x3f }), 'A film.wav');
  const { id, items } = await reviewed([song, programmeId], 0, 'ebu-r128');
  expect(items.map(({ file }) => file?.fileName)).toEqual(['A song (review copy).mp3', 'A film (review copy).m4a']);
  const { body, fileName } = await zipReviews(host.server, id);
  expect(fileName).toBe('review copies.zip');
  const names = [...(await unzipped(await gathered(body))).keys()];
  expect(names).toEqual(['A song (review copy).mp3', 'A film (review copy).m4a']);
});
