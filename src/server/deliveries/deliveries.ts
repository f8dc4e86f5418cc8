import { rm } from 'node:fs/promises';
import { and, desc, eq, isNull } from 'drizzle-orm';
import { certifiedCurve } from '@/core/delivery/certificate';
import { judgeDelivery } from '@/core/delivery/checks';
import { deliveredTreatment, treatedProgramme } from '@/core/delivery/compose';
import { KIND_FACTS } from '@/core/delivery/file-kinds';
import { DEFAULT_TEMPLATE, fileStem } from '@/core/delivery/file-name';
import { deliveryFormatSchema, type SettledFormat, settleFormat } from '@/core/delivery/format';
import { NO_TAGS } from '@/core/delivery/tags';
import { AppError } from '@/core/errors/app-error';
import { channelLayout } from '@/core/loudness/channel-layout';
import { loudnessCurve, SHORT_TERM_BINS } from '@/core/loudness/series';
import { specPeak } from '@/core/spec/verdict';
import type { Keep } from '@/core/treatment/steps/keep';
import { preparationOf } from '@/core/treatment/treatment';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { Marker } from '@/formats/metadata';
import { withAnalysis } from '@/workers/node/analysis-file';
import { type DeliverySteps, deliver, deliveryLeftovers } from '@/workers/node/deliver-file';
import { placeFile } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import { deliveries, deliveryLines, jobs, markers, programmes, sources, treatments } from '../db/schema';
import { newId } from '../ids';
import { openAudio } from '../measure/audio';
import { layoutOf } from '../measure/measure-source';
import { prepareSource } from '../measure/prepared';
import { sendAsAsked } from '../receivers/sendings';
import { sourcePath } from '../take-in/reference';
import type { TaskContext } from '../tasks/runner';
import { currentTreatment, saveTreatment, versionFor } from '../treatments/treatments';
import { addLine, changeLine, lineOf, predictionOf } from './lines';
import { nameFieldsOf } from './names';

const UNTREATED = { gainDb: 0 };

const WAV = deliveryFormatSchema.parse({ kind: 'wav' });

/** How much more than came out over the ceiling is left free when a file is solved again. */
const SOLVED_AGAIN_MARGIN_DB = 0.1;
/** Allowed to a limiter that was not worked out before, where a file is solved again. */
const SOLVED_AGAIN_REDUCTION_DB = 3;

/**
 * Puts a programme's treatment, as it is set, on the sheet as a WAV for a spec, and has it written.
 *
 * @param keep what of it is handed over by itself; the programme's own treatment stays as it is
 */
export async function createDelivery(
  server: ServerContext,
  programmeId: string,
  specId: string,
  keep?: Keep,
): Promise<string> {
  const line = addLine(server, { programmeId, specId, format: WAV, way: { kind: 'as-set' }, keep });
  try {
    return await writeLine(server, line.id);
  } catch (error) {
    server.db.delete(deliveryLines).where(eq(deliveryLines.id, line.id)).run();
    throw error;
  }
}

/**
 * Has a row of the sheet written, as it is predicted now, under a name that is taken from here on.
 *
 * @returns the delivery; where one of this row is under way already, that
 * @throws AppError as `predict`, or `would-clip`
 */
export async function writeLine(server: ServerContext, lineId: string): Promise<string> {
  const { db, queue, runner, clock } = server;
  const line = lineOf(server, lineId);
  const live = liveDelivery(server, lineId);
  if (live) return live;
  const prediction = await predictionOf(server, line);
  const { samplePeakDbfs } = prediction.readings;
  if (samplePeakDbfs !== null && samplePeakDbfs > 0 && prediction.format.bitDepth !== 32) {
    throw new AppError('would-clip', { samplePeakDbfs });
  }
  if (!currentTreatment(server, line.programmeId)) saveTreatment(server, line.programmeId, UNTREATED);
  const current = currentTreatment(server, line.programmeId);
  if (!current) throw new AppError('not-found', { what: 'treatment' });
  const { keep, programmeId } = line;
  const { id: treatmentId, version } = keep ? versionFor(server, programmeId, { ...current.treatment, keep }) : current;
  const deliveryId = newId();
  db.transaction(
    (tx) => {
      const job = tx.select().from(jobs).where(eq(jobs.id, line.jobId)).get();
      if (!job) throw new AppError('not-found', { what: 'job' });
      const { format } = prediction;
      const fields = nameFieldsOf(server, line, format, version);
      const stem = fileStem(job.nameTemplate ?? DEFAULT_TEMPLATE, fields);
      const isTaken = (fileName: string) =>
        tx
          .select()
          .from(deliveries)
          .where(and(eq(deliveries.jobId, job.id), eq(deliveries.fileName, fileName)))
          .get() !== undefined;
      tx.insert(deliveries)
        .values({
          ...{ id: deliveryId, jobId: job.id, programmeId, treatmentId, lineId, format },
          spec: prediction.spec,
          fileName: freeName(stem, KIND_FACTS[format.kind].extensions[0], isTaken),
          predicted: prediction.readings,
          treatment: prediction.treatment,
          landing: prediction.landing,
          createdAtMs: clock.now(),
        })
        .run();
    },
    { behavior: 'immediate' },
  );
  queue.enqueue('render', deliveryId);
  runner.wake();
  return deliveryId;
}

/** The delivery of a row that waits or is being written. */
function liveDelivery({ db, queue }: ServerContext, lineId: string): string | undefined {
  const newest = db
    .select({ id: deliveries.id })
    .from(deliveries)
    .where(and(eq(deliveries.lineId, lineId), isNull(deliveries.writtenAtMs)))
    .orderBy(desc(deliveries.createdAtMs))
    .get();
  const state = newest && queue.latest('render', [newest.id]).get(newest.id)?.state;
  return state === 'queued' || state === 'running' ? newest?.id : undefined;
}

/** A name that is free in its job, numbered on where that is taken. */
function freeName(stem: string, extension: string, isTaken: (fileName: string) => boolean): string {
  let fileName = `${stem}.${extension}`;
  for (let n = 2; isTaken(fileName); n++) fileName = `${stem}-${n}.${extension}`;
  return fileName;
}

/** A delivery, with everything that it is written from. */
function rowOf({ db }: ServerContext, deliveryId: string) {
  const row = db
    .select()
    .from(deliveries)
    .innerJoin(programmes, eq(programmes.id, deliveries.programmeId))
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .innerJoin(treatments, eq(treatments.id, deliveries.treatmentId))
    .where(eq(deliveries.id, deliveryId))
    .get();
  if (!row) throw new AppError('not-found', { what: 'delivery' });
  return row;
}

/**
 * Writes a delivery under a temporary name, measures it from there, gives it its name, and only then records it.
 * Done again after a crash, it ends in the same state.
 */
export async function renderDelivery(server: ServerContext, deliveryId: string, context: TaskContext): Promise<void> {
  const { db, folder, pool, clock } = server;
  const {
    deliveries: delivery,
    programmes: programme,
    sources: source,
    treatments: version,
  } = rowOf(server, deliveryId);
  if (delivery.writtenAtMs !== null) return;
  const { fileName, spec, jobId, landing } = delivery;
  const format = delivery.format ?? settleFormat(WAV, treatedProgramme(version.treatment, source.format, WAV));
  const { sampleRateHz } = source.format;
  const treatment = delivery.treatment ?? deliveredTreatment(version.treatment, format, sampleRateHz);
  const tags = programme.tags ?? NO_TAGS;
  const marks = marksOf(server, programme.id);
  const temporaryPath = folder.deliveryPart(jobId, deliveryId);
  const analysisPath = `${temporaryPath}.analysis.part`;
  const layoutId = layoutOf(server, source.sha256);
  const audio = await openAudio(server, source.sha256, programme.fileName, context);
  const { signal, onProgress } = audio.context;
  // What is prepared is kept: whoever cancels need not wait for it, and whoever tries again has it.
  const prepared = await until(
    signal,
    prepareSource(server, source.sha256, programme.fileName, preparationOf(treatment)),
  );
  const opened = await prepared.open();
  for (const path of deliveryLeftovers(temporaryPath)) await rm(path, { force: true });
  const steps: DeliverySteps = {
    render: (output, levels, report) =>
      pool.run(
        {
          ...{ kind: 'render', source: opened, historyPath: audio.path, outputPath: output.path, fileName, layoutId },
          ...{ treatment: levels, container: output.container, bitDepth: output.bitDepth },
          isDitherSilenced: output.isDitherSilenced,
          ...{ tags, markers: marks },
          limitingPath: levels.limit ? prepared.limitingPath(levels.limit) : undefined,
        },
        { signal, onProgress: report },
      ),
    measure: (path, origin, report) =>
      pool.run(
        {
          // Its hash is made of what is there in the end.
          ...{ kind: 'measure', path, fileName, sha256: '', layoutId: layoutFor(format, layoutId), origin },
          ...{ treatedBefore: null, analysisPath },
        },
        { signal, onProgress: report },
      ),
  };
  const order = {
    ...{ temporaryPath, fileName, format, spec, tags, treatment, landing },
    cover: programme.cover && { path: folder.cover(programme.cover.sha256), mediaType: programme.cover.mediaType },
    kept: format.isKept
      ? {
          path: await sourcePath(server, source, programme.fileName),
          samplesPath: audio.path,
          frames: source.format.frames,
        }
      : undefined,
  };
  try {
    const delivered = await deliver(order, steps, { signal, onProgress });
    const files = delivered.files.map(({ temporaryPath: path, ...file }) => ({
      ...file,
      path,
      fileName: nameOf(fileName, file.channel),
    }));
    for (const file of files) {
      const finalPath = folder.delivery(jobId, file.fileName);
      // The name is reserved for this delivery, and no row says that it was written: what lies there is an interrupted try.
      await rm(finalPath, { force: true });
      await placeFile(file.path, finalPath, file.fileName);
    }
    const { report, reduction, passes, expectedFrames, audioSha256 } = delivered;
    const verdict = judgeDelivery(
      {
        ...{ readings: report.readings, written: report.format, nonFiniteSamples: report.nonFiniteSamples },
        ...{ format, expectedFrames, edges: report.edges ?? null, treatment: delivered.treatment },
        ...{ tags, source: source.format },
      },
      spec,
    );
    const outcome = {
      files: files.map(({ fileName: name, channel, sizeBytes, sha256 }) => ({
        fileName: name,
        channel,
        sizeBytes,
        sha256,
      })),
      ...{ treatment: delivered.treatment, passes, expectedFrames, audioSha256 },
      said: { tags, coverSha256: programme.cover?.sha256 ?? null },
      curve: await curveOf(analysisPath),
    };
    db.transaction((tx) => {
      tx.update(deliveries)
        .set({ report, verdict, reduction, outcome, writtenAtMs: clock.now() })
        .where(eq(deliveries.id, deliveryId))
        .run();
      if (verdict.inside) sendAsAsked(server, deliveryId);
    });
  } finally {
    for (const path of [analysisPath, ...deliveryLeftovers(temporaryPath)]) await rm(path, { force: true });
  }
}

/** Short-term loudness of what was measured last. */
async function curveOf(analysisPath: string) {
  const power = await withAnalysis(analysisPath, (analysis) => analysis.weightedPower());
  return certifiedCurve(loudnessCurve(power, SHORT_TERM_BINS), 1 / BINS_PER_SECOND);
}

/** What a person has marked in a programme, as a file carries it. */
function marksOf({ db }: ServerContext, programmeId: string): Marker[] {
  return db
    .select()
    .from(markers)
    .where(eq(markers.programmeId, programmeId))
    .all()
    .map(({ startFrame, endFrame, name }) => ({
      ...{ frame: startFrame, label: name },
      lengthFrames: endFrame === null ? 0 : endFrame - startFrame,
    }));
}

/** A layout chosen by hand speaks of the source's channels; a sum of them is another one. */
function layoutFor({ channels }: SettledFormat, layoutId: string | null): string | null {
  return layoutId !== null && channelLayout(channels, 0, layoutId).channels.length === channels ? layoutId : null;
}

/** `name.L.wav` of `name.wav`, where each channel has a file of its own. */
function nameOf(fileName: string, channel: string | null): string {
  return channel === null ? fileName : fileName.replace(/(\.[^.]+)$/, `.${channel}$1`);
}

/** Waits for work that goes on by itself, but no longer than anybody wants it. */
async function until<T>(signal: AbortSignal, work: Promise<T>): Promise<T> {
  work.catch(() => undefined);
  if (signal.aborted) throw new AppError('cancelled', {});
  let leave = () => {};
  const cancelled = new Promise<never>((_, reject) => {
    const cancel = () => reject(new AppError('cancelled', {}));
    signal.addEventListener('abort', cancel);
    leave = () => signal.removeEventListener('abort', cancel);
  });
  return Promise.race([work, cancelled]).finally(leave);
}

/** A written delivery that misses its spec and was not thrown away. Throws `not-found` or `bad-request`. */
function missed(server: ServerContext, deliveryId: string) {
  const { deliveries: delivery } = rowOf(server, deliveryId);
  if (!delivery.verdict || delivery.verdict.inside || delivery.discardedAtMs !== null) {
    throw new AppError('bad-request', { reason: 'only a file that misses its spec can be decided about' });
  }
  return delivery;
}

/** Hands a file over although it misses, for a reason that stays with it; it is sent then, if its row says where to. */
export function acceptDelivery(server: ServerContext, deliveryId: string, reason: string): void {
  missed(server, deliveryId);
  server.db.transaction((tx) => {
    tx.update(deliveries).set({ acceptedReason: reason }).where(eq(deliveries.id, deliveryId)).run();
    sendAsAsked(server, deliveryId);
  });
  server.runner.wake();
}

/** Throws a file that misses away; what was measured of it stays. */
export async function discardDelivery(server: ServerContext, deliveryId: string): Promise<void> {
  const delivery = missed(server, deliveryId);
  const { db, folder, clock } = server;
  for (const fileName of fileNamesOf(delivery)) await rm(folder.delivery(delivery.jobId, fileName), { force: true });
  db.update(deliveries)
    .set({ discardedAtMs: clock.now(), acceptedReason: null })
    .where(eq(deliveries.id, deliveryId))
    .run();
}

/** Throws a file that misses away and writes it anew, its levels worked out from what came of it. Returns the new delivery. */
export async function solveAgain(server: ServerContext, deliveryId: string): Promise<string> {
  const delivery = missed(server, deliveryId);
  if (delivery.lineId === null) {
    throw new AppError('bad-request', { reason: 'this file is of before there was a sheet' });
  }
  const { way } = lineOf(server, delivery.lineId);
  const { limit } = delivery.treatment ?? {};
  const { ceiling } = delivery.spec.peak;
  const peak = delivery.report && specPeak(delivery.report.readings, delivery.spec);
  const excessDb = Math.max(0, (peak ?? ceiling) - ceiling);
  const was = way.kind === 'solved' ? way : { maxReductionDb: limit ? SOLVED_AGAIN_REDUCTION_DB : 0, marginDb: 0 };
  const marginDb = excessDb > 0 ? was.marginDb + excessDb + SOLVED_AGAIN_MARGIN_DB : was.marginDb;
  changeLine(server, delivery.lineId, { way: { kind: 'solved', maxReductionDb: was.maxReductionDb, marginDb } });
  await discardDelivery(server, deliveryId);
  return writeLine(server, delivery.lineId);
}

/** The files that a delivery is made of: those that were written, or the one that is to be. */
export function fileNamesOf({
  fileName,
  outcome,
}: Pick<typeof deliveries.$inferSelect, 'fileName' | 'outcome'>): string[] {
  return outcome?.files.map((file) => file.fileName) ?? [fileName];
}
