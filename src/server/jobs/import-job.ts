import { createWriteStream } from 'node:fs';
import { rename, rm, statfs } from 'node:fs/promises';
import { pipeline } from 'node:stream/promises';
import { eq } from 'drizzle-orm';
import yauzl, { type Entry, type ZipFile } from 'yauzl';
import { probe } from '@/codecs/probe';
import { writtenFacts } from '@/core/delivery/facts';
import { AppError, isAppError } from '@/core/errors/app-error';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { assess } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import { factsOfFile } from '@/core/spec/facts';
import type { AudioFormat } from '@/formats/audio-format';
import { FileSink } from '@/workers/node/file-bytes';
import { hashFile } from '@/workers/node/hash-file';
import { flush, placeFile } from '@/workers/node/place-file';
import type { FileReport } from '@/workers/protocol';
import type { ServerContext } from '../context';
import {
  type DeliveryOutcome,
  deliveries,
  deliveryRows,
  jobs,
  markers,
  programmes,
  sources,
  treatments,
} from '../db/schema';
import { readBack } from '../deliveries/read-back';
import { newId } from '../ids';
import { predictTreatment } from '../measure/limiting';
import { layoutOf, measureStored } from '../measure/measure-source';
import { safeFileName } from '../take-in/file-name';
import { readFormat, store } from '../take-in/take-in';
import { quietly } from '../tasks/runner';
import { coversOf, filesOf, type Manifest, manifestSchema } from './archive-manifest';

const MOST_MANIFEST_BYTES = 64_000_000;
const MOST_ENTRIES = 20_000;
/** Left free on the disk, whatever a ZIP claims to hold. */
const SPARED_BYTES = 500_000_000;

type DeliveryRow = typeof deliveries.$inferInsert;
type Brought = Pick<
  DeliveryRow,
  'predicted' | 'report' | 'verdict' | 'format' | 'treatment' | 'acceptedReason' | 'outcome'
>;

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
    record(server, jobId, manifest, brought);
    return jobId;
  } catch (error) {
    await rm(server.folder.deliveriesOf(jobId), { recursive: true, force: true });
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

interface OpenZip {
  file: ZipFile;
  entries: Map<string, Entry>;
}

/** Lists a ZIP's entries. The package refuses names that are paths elsewhere, and streams longer than they say. */
async function openZip(path: string, fileName: string): Promise<OpenZip> {
  const refuse = (cause: unknown) => {
    const reason = `as a ZIP it is damaged (${cause instanceof Error ? cause.message : cause})`;
    return new AppError('not-a-job', { fileName, reason }, { cause });
  };
  const options = { lazyEntries: true, autoClose: false, strictFileNames: true };
  const file = await yauzl.openPromise(path, options).catch((error) => {
    throw refuse(error);
  });
  try {
    const entries = new Map<string, Entry>();
    for await (const entry of file.eachEntry()) {
      if (entries.has(entry.fileName) || entries.size >= MOST_ENTRIES) throw new Error('too many files, or one twice');
      entries.set(entry.fileName, entry);
    }
    return { file, entries };
  } catch (error) {
    file.close();
    throw refuse(error);
  }
}

async function readManifest({ file, entries }: OpenZip, fileName: string): Promise<Manifest> {
  const entry = entries.get('manifest.json');
  if (!entry || entry.uncompressedSize > MOST_MANIFEST_BYTES) {
    throw new AppError('not-a-job', { fileName, reason: 'it holds no manifest of a job' });
  }
  const pieces: Buffer[] = [];
  for await (const piece of await file.openReadStreamPromise(entry)) pieces.push(piece as Buffer);
  try {
    return manifestSchema.parse(JSON.parse(Buffer.concat(pieces).toString('utf8')));
  } catch (error) {
    throw new AppError('not-a-job', { fileName, reason: 'its manifest is not one that can be read' }, { cause: error });
  }
}

/** Everything that the manifest speaks of must be there at its size, nothing else, and there must be room for it. */
async function checkEntries(
  { folder }: ServerContext,
  entries: ReadonlyMap<string, Entry>,
  manifest: Manifest,
  fileName: string,
): Promise<void> {
  const refuse = (reason: string) => new AppError('not-a-job', { fileName, reason });
  const written = manifest.programmes.flatMap((programme) => programme.deliveries.flatMap(filesOf));
  const covers = coversOf(manifest);
  const expected = new Map<string, number>([
    ...manifest.sources.map(({ sha256, sizeBytes }) => [`sources/${sha256}`, sizeBytes] as const),
    ...written.map((delivery) => [`deliveries/${delivery.fileName}`, delivery.sizeBytes] as const),
    ...[...covers.values()].map((cover) => [`covers/${cover.sha256}`, cover.sizeBytes] as const),
  ]);
  const isComplete = expected.size === manifest.sources.length + written.length + covers.size;
  if (!isComplete) throw refuse('its manifest names a file twice');
  for (const [name, sizeBytes] of expected) {
    if (entries.get(name)?.uncompressedSize !== sizeBytes) throw refuse(`${name} is missing, or has another size`);
  }
  for (const name of entries.keys()) {
    if (name !== 'manifest.json' && !expected.has(name)) throw refuse(`it holds ${name}, which belongs to no job`);
  }
  const shas = new Set(manifest.sources.map(({ sha256 }) => sha256));
  const own = manifest.programmes.map(({ sourceSha256 }) => sourceSha256);
  if (own.some((sha256) => !shas.has(sha256)) || new Set(own).size !== own.length) {
    throw refuse('its programmes and its sources do not match');
  }
  const needed = [...expected.values()].reduce((sum, size) => sum + size, 0);
  const { bavail, bsize } = await statfs(folder.root);
  if (needed + SPARED_BYTES > bavail * bsize) throw refuse('there is not enough room on the disk for it');
}

/** Takes an entry out of the ZIP, flushed, and holds it to its hash. */
async function extract({ file, entries }: OpenZip, name: string, path: string, sha256: string, fileName: string) {
  const stream = await file.openReadStreamPromise(entries.get(name) as Entry);
  await pipeline(stream, createWriteStream(path, { flags: 'wx' }));
  await flush(path);
  if ((await hashFile(path)) !== sha256) {
    throw new AppError('not-a-job', { fileName, reason: `${name} is not the file that it was` });
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
  for (const { sourceSha256, treatments: versions, deliveries: written } of manifest.programmes) {
    const source = server.sourceReport(sourceSha256);
    if (!source || written.length === 0) continue;
    for (const delivery of written) {
      const version = versions.find(({ version: number }) => number === delivery.treatmentVersion);
      if (!version) throw new AppError('not-a-job', { fileName, reason: 'a delivery has no treatment' });
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
        { fileName: delivery.fileName, sha256: delivery.sha256, layoutId },
        quietly(),
      );
      for (const { path, fileName: name } of parts) await placeFile(path, folder.delivery(jobId, name), name);
      brought.set(delivery.fileName, {
        predicted: await predictTreatment(server, sourceSha256, fileName, version.treatment),
        report,
        verdict: judged(delivery, report, source.format),
        ...{ format: delivery.format, treatment: delivery.treatment, acceptedReason: delivery.acceptedReason },
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
  const { files, treatment, passes, expectedFrames, audioSha256, said, fileName, sha256, sizeBytes } = delivery;
  if (!treatment || expectedFrames === null || audioSha256 === null) return null;
  const parts = files.length > 0 ? files : [{ fileName, channel: null, sha256, sizeBytes }];
  return { files: parts, treatment, passes, expectedFrames, audioSha256, ...(said ? { said } : {}) };
}

function record({ db }: ServerContext, jobId: string, manifest: Manifest, brought: ReadonlyMap<string, Brought>): void {
  db.transaction(
    (tx) => {
      tx.insert(jobs)
        .values({ id: jobId, ...manifest.job })
        .run();
      let rowPosition = 0;
      manifest.programmes.forEach((described, position) => {
        const {
          treatments: versions,
          deliveries: written,
          currentVersion,
          markers: kept,
          rows,
          ...programme
        } = described;
        const programmeId = newId();
        tx.insert(programmes)
          .values({ ...programme, id: programmeId, jobId, position })
          .run();
        for (const marker of kept) {
          tx.insert(markers)
            .values({ ...marker, id: newId(), programmeId })
            .run();
        }
        const treatmentIds = new Map<number | null, string>();
        for (const version of versions) {
          const id = newId();
          treatmentIds.set(version.version, id);
          tx.insert(treatments)
            .values({ ...version, id, programmeId })
            .run();
        }
        tx.update(programmes)
          .set({ treatmentId: treatmentIds.get(currentVersion) ?? null })
          .where(eq(programmes.id, programmeId))
          .run();
        const rowIds = rows.map((row) => {
          const id = newId();
          const createdAtMs = manifest.job.createdAtMs;
          tx.insert(deliveryRows)
            .values({ ...row, id, jobId, programmeId, position: ++rowPosition, createdAtMs })
            .run();
          return id;
        });
        for (const { fileName, treatmentVersion, spec, row, createdAtMs, writtenAtMs } of written) {
          const measured = brought.get(fileName);
          const treatmentId = treatmentIds.get(treatmentVersion);
          if (!measured || !treatmentId) throw new RangeError(`${fileName} was not brought in`);
          tx.insert(deliveries)
            .values({
              id: newId(),
              jobId,
              programmeId,
              treatmentId,
              spec,
              fileName,
              rowId: row === null ? null : (rowIds[row] ?? null),
              ...{ createdAtMs, writtenAtMs, state: 'written' },
              ...measured,
            })
            .run();
        }
      });
    },
    { behavior: 'immediate' },
  );
}
