/** Fills an empty data folder with the demo job: made, taken in, measured, set and written by the app's own code. */
import { count } from 'drizzle-orm';
import { batchWish } from '@/core/batch/batch';
import { setRowSchema } from '@/core/delivery/row';
import { isAppError } from '@/core/errors/app-error';
import { USUAL_RECORD } from '@/core/lineup/line-up';
import { specById } from '@/core/spec/catalogue';
import { gainToCeiling, solveGain } from '@/core/treatment/solver';
import type { ByteSink } from '@/formats/bytes';
import { createWavWriter } from '@/formats/wav/writer';
import { orderAssembly } from '@/server/assemblies/assemblies';
import { viewFilm } from '@/server/assemblies/film';
import { orderBatch } from '@/server/batches/batches';
import { jobs } from '@/server/db/schema';
import { addRow } from '@/server/deliveries/rows';
import { saveRowsAsTemplate } from '@/server/deliveries/templates';
import { writeRow } from '@/server/deliveries/write-row';
import { createJob } from '@/server/jobs/jobs';
import { groupProgrammes } from '@/server/jobs/programmes';
import { filmLineUp } from '@/server/line-ups/films';
import { numberIsrcs } from '@/server/line-ups/isrcs';
import { createLineUp, lineUpOf } from '@/server/line-ups/line-ups';
import { Server } from '@/server/server';
import { takeInRenderings } from '@/server/take-in/renderings';
import { takeIn } from '@/server/take-in/take-in';
import { takeInTracks } from '@/server/take-in/tracks';
import { saveTreatment } from '@/server/treatments/treatments';
import { definitionChunks } from './demo/definition';
import { DEMO_FILM, withDemoFilm } from './demo/film';
import { seedLines } from './demo/lines';
import { DEMO_JOB, DEMO_LINE_UPS, DEMO_PROGRAMMES, type DemoProgramme } from './demo/programmes';

const PIECE_FRAMES = 65_536;

const server = new Server();
try {
  const known = server.db.select({ n: count() }).from(jobs).get()?.n ?? 0;
  if (known === 0) await seed();
} finally {
  await server.close();
}

async function seed(): Promise<void> {
  const jobId = createJob(server, DEMO_JOB);
  const taken: { demo: DemoProgramme; programmeId: string; sha256: string }[] = [];
  for (const demo of DEMO_PROGRAMMES) {
    console.log(`  making ${demo.title} …`);
    const { fileName, title, group } = demo;
    const { programmeId, sha256 } = await takeIn(server, { jobId, fileName, title, body: wavOf(demo) });
    if (group) groupProgrammes(server, [programmeId], group);
    taken.push({ demo, programmeId, sha256 });
  }
  const filmId = await seedFilm(jobId);
  console.log('  measuring …');
  await server.runner.whenIdle();
  for (const { demo, programmeId } of taken) {
    const { audioProgramme, layouts = [] } = demo.renderings ?? {};
    if (audioProgramme)
      await takeInRenderings(
        server,
        programmeId,
        layouts.map((layout) => ({ audioProgramme, layout })),
      );
  }
  if (filmId) await takeInTracks(server, filmId, DEMO_FILM.tracks);
  await server.runner.whenIdle();
  for (const { demo, programmeId, sha256 } of taken) {
    await setGain(demo, programmeId, sha256);
    for (const delivery of demo.deliveries ?? []) {
      const { id } = addRow(server, { programmeId, ...setRowSchema.parse(delivery) });
      if (delivery.isWritten) await writeRow(server, id);
    }
    if (demo.templateName)
      saveRowsAsTemplate(server, demo.templateName, programmeId, { withTreatment: true, withNames: true });
  }
  for (const { group, kind, specId, gapSeconds, record = USUAL_RECORD, firstIsrc } of DEMO_LINE_UPS) {
    const members = taken.flatMap(({ demo, programmeId }) =>
      demo.group === group ? [{ programmeId, gapSeconds }] : [],
    );
    const lineUpId = createLineUp(server, jobId, { kind, name: group, specId, record, members });
    if (firstIsrc) numberIsrcs(server, lineUpId, firstIsrc);
  }
  await server.runner.whenIdle();
  if (filmId) await putFilmBack(filmId);
  seedLines(server, jobId);
}

/** Its programmes are delivered, and put back into it. */
async function putFilmBack(filmId: string): Promise<void> {
  const { specId, title } = DEMO_FILM;
  console.log(`  putting the sound back into ${title} …`);
  const lineUpId = filmLineUp(server, filmId);
  const { jobId, members } = lineUpOf(server, lineUpId);
  const { wanted: format } = await viewFilm(server, lineUpId);
  const ids = members.map(({ programmeId }) => programmeId);
  orderBatch(server, jobId, ids, batchWish.parse({ kind: 'deliver', specId, format }));
  await server.runner.whenIdle();
  orderAssembly(server, lineUpId, { form: 'film', format, specId });
  await server.runner.whenIdle();
}

/** Without FFmpeg there is no film. */
async function seedFilm(jobId: string): Promise<string | null> {
  const { title, fileName } = DEMO_FILM;
  console.log(`  making ${title} …`);
  try {
    return await withDemoFilm(async (body) => (await takeIn(server, { jobId, fileName, title, body })).programmeId);
  } catch (error) {
    if (!isAppError(error, 'ffmpeg-missing')) throw error;
    console.log('  left out: FFmpeg is not installed');
    return null;
  }
}

async function setGain(demo: DemoProgramme, programmeId: string, sha256: string): Promise<void> {
  const report = server.sourceReport(sha256);
  if (!report || !demo.gain) return;
  const spec = specById('ebu-r128');
  const power = await server.analysis(sha256, (analysis) => analysis.weightedPower());
  const gainDb =
    demo.gain === 'target' ? solveGain(report.readings, power, spec)?.gainDb : gainToCeiling(report.readings, spec);
  if (typeof gainDb === 'number') saveTreatment(server, programmeId, { gainDb });
}

/** A demo programme as the bytes of a WAV. */
async function* wavOf(demo: DemoProgramme): AsyncGenerator<Uint8Array> {
  const channels = demo.make();
  const frames = channels[0]?.length ?? 0;
  const written: Uint8Array[] = [];
  const sink: ByteSink = {
    async write(bytes) {
      written.push(bytes.slice());
    },
  };
  const { sampleRateHz, channelMask, definition } = demo;
  const layout = { sampleRateHz, channels: channels.length, channelMask, frames };
  const chunks = definition && { isBw64: true, chunks: definitionChunks(definition) };
  const writer = await createWavWriter(sink, { ...layout, ...chunks });
  for (let start = 0; start < frames; start += PIECE_FRAMES) {
    const end = Math.min(frames, start + PIECE_FRAMES);
    await writer.write(
      channels.map((samples) => samples.subarray(start, end)),
      end - start,
      1,
    );
    yield* written.splice(0);
  }
  await writer.finish();
  yield* written.splice(0);
}
