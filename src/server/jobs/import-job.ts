import { rename, rm } from 'node:fs/promises';
import { eq } from 'drizzle-orm';
import { probe } from '@/codecs/probe';
import { writtenFacts } from '@/core/delivery/facts';
import { AppError, isAppError } from '@/core/errors/app-error';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { assess } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import { factsOfFile } from '@/core/spec/facts';
import type { AudioFormat } from '@/formats/audio-format';
import { FileSink } from '@/workers/node/file-bytes';
import { placeFile } from '@/workers/node/place-file';
import type { FileReport } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { sources } from '../db/schema';
import type { DeliveryOutcome } from '../db/stored/delivery';
import { readBack } from '../deliveries/read-back';
import { newId } from '../ids';
import { predictTreatment } from '../measure/limiting';
import { layoutOf, measureStored } from '../measure/measure-source';
import { safeFileName } from '../take-in/file-name';
import { readFormat, store } from '../take-in/take-in';
import { quietly } from '../tasks/runner';
import { coversOf, filesOf, type Manifest } from './archive-manifest';
import { bringRecords } from './bring-records';
import { checkEntries, extract, type OpenZip, openZip, readManifest } from './job-zip';
import { importJobMessages as messages } from './messages';
import { type Brought, recordJob } from './record-job';

/**
 * Brings in a job from a ZIP that another Opsimeter has exported, as a job of its own. What the ZIP says of its sound is
 * not believed: every file is hashed, and measured anew. The job is there only when all of it is.
 *
 * @returns the new job's id
 * @throws AppError `not-a-job`, or an error of one of its files
 */
async function importJob(server: ServerContext, path: string, fileName: string): Promise<string> {
  const zip = await openZip(path, fileName);
  const jobId = newId();
  try {
    const manifest = await readManifest(zip, fileName);
    await checkEntries(server, zip.entries, manifest, fileName);
    for (const source of manifest.sources) await bringSource(server, zip, manifest, source, fileName);
    const brought = await bringDeliveries(server, zip, manifest, jobId, fileName);
    for (const { sha256 } of coversOf(manifest).values()) await bringCover(server, zip, sha256, fileName);
    recordJob(server, jobId, await bringRecords(server, zip, manifest, jobId, fileName), brought);
    return jobId;
  } catch (error) {
    for (const folder of [server.folder.deliveriesOf(jobId), server.folder.recordsOf(jobId)])
      await rm(folder, { recursive: true, force: true });
    if (isAppError(error)) throw error;
    const reason = error instanceof Error ? error.message : String(error);
    throw new AppError('not-a-job', { fileName, reason }, { cause: error });
  } finally {
    zip.file.close();
  }
}

/** Brings in a job from the bytes of its ZIP. Throws as `importJob` does, or `upload-interrupted`. */
export async function receiveJob(
  server: ServerContext,
  name: string,
  body: AsyncIterable<Uint8Array>,
): Promise<string> {
  const fileName = safeFileName(name);
  const path = server.folder.incoming(newId());
  try {
    const sink = await FileSink.create(path, fileName);
    try {
      for await (const bytes of body) await sink.write(bytes);
    } catch (error) {
      if (isAppError(error)) throw error;
      throw new AppError('upload-interrupted', { fileName }, { cause: error });
    } finally {
      await sink.abandon();
    }
    return await importJob(server, path, fileName);
  } finally {
    await rm(path, { force: true });
  }
}

async function bringSource(
  server: ServerContext,
  zip: OpenZip,
  manifest: Manifest,
  { sha256, sizeBytes, layoutId, track }: Manifest['sources'][number],
  fileName: string,
): Promise<void> {
  const { db, folder, clock } = server;
  const programme = manifest.programmes.find(({ sourceSha256 }) => sourceSha256 === sha256);
  const sourceName = programme?.fileName ?? fileName;
  const temporaryPath = folder.incoming(newId());
  try {
    // Also where its hash is known: a ZIP that holds other bytes is not the job that it says it is.
    await extract(zip, `sources/${sha256}`, temporaryPath, sha256, fileName);
    if (!db.select().from(sources).where(eq(sources.sha256, sha256)).get()) {
      const isChosen = track !== null && track > 1;
      const format = isChosen
        ? (await probe(temporaryPath, sourceName, track)).format
        : await readFormat(temporaryPath, sourceName);
      await store(temporaryPath, folder.source(sha256), sourceName);
      db.insert(sources)
        .values({ sha256, sizeBytes, format, layoutId, createdAtMs: clock.now() })
        .onConflictDoNothing()
        .run();
    }
    if (!server.sourceReport(sha256)) await measureStored(server, sha256, sourceName, quietly());
  } finally {
    await rm(temporaryPath, { force: true });
  }
}

/** A picture, under its hash; one that is there already is the same. */
async function bringCover({ folder }: ServerContext, zip: OpenZip, sha256: string, fileName: string): Promise<void> {
  const temporaryPath = folder.incoming(newId());
  try {
    await extract(zip, `covers/${sha256}`, temporaryPath, sha256, fileName);
    await rename(temporaryPath, folder.cover(sha256));
  } finally {
    await rm(temporaryPath, { force: true });
  }
}

/** What was written, measured again; its rows but for the ids of what they belong to. */
async function bringDeliveries(
  server: ServerContext,
  zip: OpenZip,
  manifest: Manifest,
  jobId: string,
  fileName: string,
): Promise<Map<string, Brought>> {
  const { folder } = server;
  const brought = new Map<string, Brought>();
  const known = new Set(manifest.programmes.map(({ sourceSha256 }) => sourceSha256));
  for (const { sourceSha256: current, treatments: versions, deliveries: written } of manifest.programmes) {
    for (const delivery of written) {
      // What a programme had before another took its place is in the job too, as what was taken out of it.
      const { sourceSha256: stated } = delivery;
      const sourceSha256 = stated !== null && known.has(stated) ? stated : current;
      const source = server.sourceReport(sourceSha256);
      if (!source) continue;
      const version = versions.find(({ version: number }) => number === delivery.treatmentVersion);
      if (!version) throw new AppError('not-a-job', { fileName, reason: messages.noTreatment });
      const channels = delivery.format?.channels ?? source.format.channels;
      const layoutId = writtenLayoutId(channels, layoutOf(server, sourceSha256));
      const temporaryPath = folder.deliveryPart(jobId, newId());
      const parts = filesOf(delivery).map((file, i) => ({ ...file, path: `${temporaryPath}.${i}.part` }));
      for (const { path, sha256, ...part } of parts) {
        await extract(zip, `deliveries/${part.fileName}`, path, sha256, fileName);
      }
      const report = await readBack(
        server,
        parts.map(({ path }) => path),
        { fileName: delivery.fileName, sha256: delivery.sha256, layoutId, frames: delivery.expectedFrames },
        quietly(),
      );
      for (const { path, fileName: name } of parts) await placeFile(path, folder.delivery(jobId, name), name);
      brought.set(delivery.fileName, {
        sourceSha256,
        predicted: await predictTreatment(server, sourceSha256, fileName, version.treatment),
        report,
        verdict: judged(delivery, report, source.format),
        format: delivery.format,
        treatment: delivery.treatment,
        acceptedReason: delivery.acceptedReason,
        acceptedBy: delivery.acceptedBy,
        approvedBy: delivery.approvedBy,
        approvedAtMs: delivery.approvedAtMs,
        outcome: outcomeOf(delivery),
      });
    }
  }
  return brought;
}

/** As it was judged when it was written, from what is read of it now. */
function judged(
  { spec, format, treatment, expectedFrames }: Manifest['programmes'][number]['deliveries'][number],
  report: FileReport,
  source: AudioFormat,
): Verdict {
  const isKnown = format !== null && treatment !== null;
  return assess(
    spec,
    isKnown ? writtenFacts(report, { format, treatment, source, expectedFrames }) : factsOfFile(report),
  );
}

/** Null of files of before there was a sheet. */
function outcomeOf(delivery: Manifest['programmes'][number]['deliveries'][number]): DeliveryOutcome | null {
  const { files, treatment, passes, expectedFrames, audioSha256, said, startTimeCode } = delivery;
  const { fileName, sha256, sizeBytes } = delivery;
  if (!treatment || expectedFrames === null || audioSha256 === null) return null;
  const parts = files.length > 0 ? files : [{ fileName, channel: null, sha256, sizeBytes }];
  const stated = { ...(said ? { said } : {}), ...(startTimeCode ? { startTimeCode } : {}) };
  return { files: parts, treatment, passes, expectedFrames, audioSha256, ...stated };
}
