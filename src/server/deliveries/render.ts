import { rm } from 'node:fs/promises';
import { deliveredTreatment, treatedProgramme } from '@/core/delivery/compose';
import { writtenFacts } from '@/core/delivery/facts';
import { deliveryFormatSchema, resolveFormat } from '@/core/delivery/format';
import { startAtLabel, startTimeCodeOf } from '@/core/delivery/start-time-code';
import { NO_TAGS } from '@/core/file-formats/tags';
import { assess } from '@/core/spec/assess';
import type { StartTimeCode } from '@/core/units/time-code';
import { deliveryLeftovers } from '@/workers/node/delivery-paths';
import { readFileMetadata } from '@/workers/node/file-metadata';
import { placeFile } from '@/workers/node/place-file';
import type { ServerContext } from '../context';
import type { sources } from '../db/schema';
import { sendAsAsked } from '../receivers/transfers';
import { sourcePath } from '../take-in/reference';
import type { TaskContext } from '../tasks/runner';
import { markDiscarded, removeFiles } from './decide';
import { deliverProgramme } from './deliver-programme';
import { advanceDelivery, deliveryRecord } from './delivery-record';

const WAV = deliveryFormatSchema.parse({ kind: 'wav' });

/**
 * Writes a delivery under a temporary name, measures it from there, gives it its name, and only then records it.
 * Done again after a crash, it ends in the same state.
 */
export async function renderDelivery(server: ServerContext, deliveryId: string, context: TaskContext): Promise<void> {
  const { db, folder, clock } = server;
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
  const temporaryPath = folder.deliveryPart(jobId, deliveryId);
  try {
    const delivered = await deliverProgramme(
      server,
      { programme, source, temporaryPath, fileName, format, spec, tags, treatment, landing, cover: programme.cover },
      context,
    );
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
    const timeCode = programme.timeCode
      ? startAtLabel(programme.timeCode)
      : await timeCodeOf(server, source, programme.fileName);
    const startTimeCode = startTimeCodeOf(timeCode, delivered.treatment, sampleRateHz);
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
      said: { tags, coverSha256: programme.cover?.sha256 ?? null, timeCode: programme.timeCode },
      ...(startTimeCode ? { startTimeCode } : {}),
      curve: delivered.curve,
    };
    const replaced = delivery.replacesId === null ? undefined : deliveryRecord(server, delivery.replacesId).deliveries;
    const isReplacing = replaced !== undefined && !replaced.acceptedReason;
    const isRecorded = db.transaction(
      () => {
        const change = { report, verdict, reduction, outcome, writtenAtMs: clock.now() };
        if (!advanceDelivery(server, deliveryId, 'written', change)) return false;
        if (verdict.inside) sendAsAsked(server, deliveryId);
        if (isReplacing) markDiscarded(server, [replaced.id]);
        return true;
      },
      { behavior: 'immediate' },
    );
    // Nobody waits for it any more.
    if (!isRecorded) await removeFiles(server, { jobId, fileName, outcome });
    else if (isReplacing) await removeFiles(server, replaced);
  } finally {
    for (const path of deliveryLeftovers(temporaryPath)) await rm(path, { force: true });
  }
}

/** Of a film whose file lies elsewhere, and no longer does, only what was decoded of it is there: that has no time code, and is delivered all the same. */
async function timeCodeOf(
  server: ServerContext,
  source: typeof sources.$inferSelect,
  fileName: string,
): Promise<StartTimeCode | null> {
  const path = await sourcePath(server, source, fileName).catch(() => null);
  return path === null ? null : (await readFileMetadata(path, fileName, source.format)).timeCode;
}

/** `name.L.wav` of `name.wav`, where each channel has a file of its own. */
function nameOf(fileName: string, channel: string | null): string {
  return channel === null ? fileName : fileName.replace(/(\.[^.]+)$/, `.${channel}$1`);
}
