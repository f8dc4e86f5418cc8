import { rm } from 'node:fs/promises';
import { and, eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import { specById } from '@/core/spec/catalogue';
import { judge } from '@/core/spec/verdict';
import type { Keep } from '@/core/treatment/steps/keep';
import { placeFile } from '@/workers/node/place-file';
import { leftoversOf } from '@/workers/node/render-file';
import type { ServerContext } from '../context';
import { deliveries, programmes, treatments } from '../db/schema';
import { newId } from '../ids';
import { openAudio } from '../measure/audio';
import { predictTreatment } from '../measure/limiting';
import { layoutOf } from '../measure/measure-source';
import { slug } from '../take-in/file-name';
import { scaled, type TaskContext } from '../tasks/runner';
import { currentTreatment, saveTreatment, versionFor } from '../treatments/treatments';

const UNTREATED = { gainDb: 0 };

/**
 * Makes a delivery of a programme's treatment for a spec, and queues it to be written.
 *
 * @param keep what of it is handed over by itself; the programme's own treatment stays as it is
 */
export async function createDelivery(
  server: ServerContext,
  programmeId: string,
  specId: string,
  keep?: Keep,
): Promise<string> {
  const { db, queue, runner, clock } = server;
  const spec = specById(specId);
  const programme = db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  if (!programme) throw new AppError('not-found', { what: 'programme' });
  if (!server.sourceReport(programme.sourceSha256)) throw new AppError('not-measured', { title: programme.title });
  if (!currentTreatment(server, programmeId)) saveTreatment(server, programmeId, UNTREATED);
  const current = currentTreatment(server, programmeId);
  if (!current) throw new AppError('not-found', { what: 'treatment' });
  const {
    id: treatmentId,
    version,
    treatment,
  } = keep ? versionFor(server, programmeId, { ...current.treatment, keep }) : current;
  const predicted = await predictTreatment(server, programme.sourceSha256, programme.fileName, treatment);
  if (predicted.samplePeakDbfs !== null && predicted.samplePeakDbfs > 0) {
    throw new AppError('would-clip', { samplePeakDbfs: predicted.samplePeakDbfs });
  }
  const deliveryId = newId();
  db.transaction(
    (tx) => {
      const isTaken = (fileName: string) =>
        tx
          .select()
          .from(deliveries)
          .where(and(eq(deliveries.jobId, programme.jobId), eq(deliveries.fileName, fileName)))
          .get() !== undefined;
      tx.insert(deliveries)
        .values({
          id: deliveryId,
          jobId: programme.jobId,
          programmeId,
          treatmentId,
          spec,
          fileName: freeName(`${slug(programme.title)}_${spec.id}_v${version}`, isTaken),
          predicted,
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

/** `<programme>_<spec>_<version>.wav`, numbered on where that is taken in the job. */
function freeName(stem: string, isTaken: (fileName: string) => boolean): string {
  let fileName = `${stem}.wav`;
  for (let n = 2; isTaken(fileName); n++) fileName = `${stem}-${n}.wav`;
  return fileName;
}

/** Part of the whole run that writing takes; reading the file back, measuring and hashing it take the rest. */
const WRITING_SHARE = 0.6;

/**
 * Writes a delivery under a temporary name, measures it from there, gives it its name, and only then records it.
 * Done again after a crash, it ends in the same state.
 */
export async function renderDelivery(server: ServerContext, deliveryId: string, context: TaskContext): Promise<void> {
  const { db, folder, pool, clock } = server;
  const row = db
    .select()
    .from(deliveries)
    .innerJoin(programmes, eq(programmes.id, deliveries.programmeId))
    .innerJoin(treatments, eq(treatments.id, deliveries.treatmentId))
    .where(eq(deliveries.id, deliveryId))
    .get();
  if (!row) throw new AppError('not-found', { what: 'delivery' });
  const { deliveries: delivery, programmes: programme, treatments: version } = row;
  if (delivery.writtenAtMs !== null) return;

  const finalPath = folder.delivery(delivery.jobId, delivery.fileName);
  const temporaryPath = folder.deliveryPart(delivery.jobId, deliveryId);
  // The name is reserved for this delivery, and no row says that it was written: what lies there is an interrupted try.
  await rm(finalPath, { force: true });
  try {
    const layoutId = layoutOf(server, programme.sourceSha256);
    const { fileName } = delivery;
    const audio = await openAudio(server, programme.sourceSha256, programme.fileName, context);
    const { clippedSamples, reduction } = await pool.run(
      {
        kind: 'render',
        path: audio.path,
        outputPath: temporaryPath,
        fileName,
        treatment: version.treatment,
        layoutId,
      },
      { ...audio.context, onProgress: scaled(audio.context.onProgress, 0, WRITING_SHARE) },
    );
    const report = await pool.run(
      {
        kind: 'measure',
        path: temporaryPath,
        fileName,
        sha256: null,
        layoutId,
        origin: null,
        treatedBefore: null,
        analysisPath: null,
      },
      { ...audio.context, onProgress: scaled(audio.context.onProgress, WRITING_SHARE, 1) },
    );
    if (clippedSamples > 0)
      throw new AppError('would-clip', { samplePeakDbfs: delivery.predicted.samplePeakDbfs ?? 0 });
    await placeFile(temporaryPath, finalPath, delivery.fileName);
    const verdict = judge(report.readings, report.format, delivery.spec, report.nonFiniteSamples);
    db.update(deliveries)
      .set({ report, verdict, reduction, writtenAtMs: clock.now() })
      .where(eq(deliveries.id, deliveryId))
      .run();
  } finally {
    for (const path of leftoversOf(temporaryPath)) await rm(path, { force: true });
  }
}
