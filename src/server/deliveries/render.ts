import { rm } from 'node:fs/promises';
import { eq } from 'drizzle-orm';
import { certifiedCurve } from '@/core/delivery/certificate';
import { deliveredTreatment, treatedProgramme } from '@/core/delivery/compose';
import { writtenFacts } from '@/core/delivery/facts';
import { deliveryFormatSchema, resolveFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { loudnessCurve, SHORT_TERM_BINS } from '@/core/loudness/series';
import { assess } from '@/core/spec/assess';
import { preparationOf } from '@/core/treatment/treatment';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { Marker } from '@/formats/metadata';
import { withAnalysis } from '@/workers/node/analysis-file';
import { deliver } from '@/workers/node/deliver-file';
import type { DeliverySteps } from '@/workers/node/delivery-order';
import { deliveryLeftovers } from '@/workers/node/delivery-paths';
import { placeFile } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import { markers } from '../db/schema';
import { openAudio } from '../measure/audio';
import { layoutOf } from '../measure/measure-source';
import { prepareSource, whileHeld } from '../measure/prepared';
import { sendAsAsked } from '../receivers/transfers';
import { checkSource, sourcePath } from '../take-in/reference';
import type { TaskContext } from '../tasks/runner';
import { markDiscarded, removeFiles } from './decide';
import { advanceDelivery, deliveryRecord } from './delivery-record';

const WAV = deliveryFormatSchema.parse({ kind: 'wav' });

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
  } = deliveryRecord(server, deliveryId);
  if (delivery.state !== 'open') return;
  const { fileName, spec, jobId, landing } = delivery;
  const format = delivery.format ?? resolveFormat(WAV, treatedProgramme(version.treatment, source.format, WAV));
  const { sampleRateHz } = source.format;
  const treatment = delivery.treatment ?? deliveredTreatment(version.treatment, format, sampleRateHz);
  const tags = programme.tags ?? NO_TAGS;
  const marks = marksOf(server, programme.id);
  const temporaryPath = folder.deliveryPart(jobId, deliveryId);
  const analysisPath = `${temporaryPath}.analysis.part`;
  const layoutId = layoutOf(server, source.sha256);
  const written = writtenLayoutId(format.channels, layoutId);
  const audio = await openAudio(server, source.sha256, programme.fileName, context);
  const { signal, onProgress } = audio.context;
  // What is prepared is kept: whoever cancels need not wait for it, and whoever tries again has it.
  const intact = checkSource(server, source, programme.fileName);
  intact.catch(() => undefined);
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
          kind: 'render',
          source: opened,
          historyPath: audio.path,
          outputPath: output.path,
          fileName,
          layoutId,
          treatment: levels,
          container: output.container,
          bitDepth: output.bitDepth,
          isDitherSilenced: output.isDitherSilenced,
          isForCoder: output.isForCoder,
          withoutAdm: output.withoutAdm,
          tags,
          markers: marks,
          writtenAtMs: clock.now(),
          limitingPath: levels.limit ? prepared.limitingPath(levels.limit) : undefined,
        },
        { signal, onProgress: report },
      ),
    measure: (path, origin, report) =>
      pool.run(
        {
          // Its hash is made of what is there in the end.
          kind: 'measure',
          path,
          fileName,
          sha256: '',
          layoutId: written,
          origin,
          treatedBefore: null,
          analysisPath,
        },
        { signal, onProgress: report },
      ),
  };
  const order = {
    temporaryPath,
    fileName,
    format,
    spec,
    tags,
    treatment,
    landing,
    layoutId: written,
    cover: programme.cover && { path: folder.cover(programme.cover.sha256), mediaType: programme.cover.mediaType },
    kept: format.isPassthrough
      ? {
          path: await sourcePath(server, source, programme.fileName),
          samplesPath: audio.path,
          frames: source.format.frames,
        }
      : undefined,
  };
  try {
    const delivered = await whileHeld(prepared, () => deliver(order, steps, { signal, onProgress }));
    // Hashed while it was worked on: nothing is handed over that was made of anything else than what was taken in.
    await intact;
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
    const verdict = assess(
      spec,
      writtenFacts(report, { format, treatment: delivered.treatment, source: source.format, expectedFrames }),
    );
    const outcome = {
      files: files.map(({ fileName: name, channel, sizeBytes, sha256 }) => ({
        fileName: name,
        channel,
        sizeBytes,
        sha256,
      })),
      treatment: delivered.treatment,
      passes,
      expectedFrames,
      audioSha256,
      said: { tags, coverSha256: programme.cover?.sha256 ?? null },
      curve: await curveOf(analysisPath),
    };
    const replaced = delivery.replacesId === null ? undefined : deliveryRecord(server, delivery.replacesId).deliveries;
    const isReplacing = replaced !== undefined && !replaced.acceptedReason;
    const isRecorded = db.transaction(
      () => {
        const change = { report, verdict, reduction, outcome, writtenAtMs: clock.now() };
        if (!advanceDelivery(server, deliveryId, 'written', change)) return false;
        if (verdict.inside) sendAsAsked(server, deliveryId);
        if (isReplacing) markDiscarded(server, replaced.id);
        return true;
      },
      { behavior: 'immediate' },
    );
    // Nobody waits for it any more.
    if (!isRecorded) await removeFiles(server, { jobId, fileName, outcome });
    else if (isReplacing) await removeFiles(server, replaced);
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
      frame: startFrame,
      label: name,
      lengthFrames: endFrame === null ? 0 : endFrame - startFrame,
    }));
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
