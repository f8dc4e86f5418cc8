import { eq, sql } from 'drizzle-orm';
import { probe } from '@/codecs/probe';
import { AppError } from '@/core/errors/app-error';
import type { Tags } from '@/core/file-formats/tags';
import { channelLayout, layoutsOf, loudspeakersOf } from '@/core/loudness/channel-layout';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { formatGain } from '@/core/units/format';
import type { AudioFormat } from '@/formats/audio-format';
import type { Metadata } from '@/formats/metadata';
import { readFileMetadata, readFileTags } from '@/workers/node/file-metadata';
import type { ServerContext } from '../context';
import { deliveries, programmes, sourceReports, sources, treatments } from '../db/schema';
import { sourcePath } from '../take-in/reference';
import type { TaskContext } from '../tasks/runner';
import { changeTreatment, currentTreatments } from '../treatments/treatments';
import { openAudio, trackOf } from './audio';
import { measureSourceMessages as messages } from './messages';

/** Measures a source that programmes are made of. */
export async function measureSource(server: ServerContext, sha256: string, context: TaskContext): Promise<void> {
  const programme = server.db.select().from(programmes).where(eq(programmes.sourceSha256, sha256)).get();
  if (!programme) throw new AppError('not-found', { what: 'programme' });
  await measureStored(server, sha256, programme.fileName, context);
}

/** Measures a source: the analysis beside it first, then the row that says it is there. */
export async function measureStored(
  server: ServerContext,
  sha256: string,
  fileName: string,
  context: TaskContext,
): Promise<void> {
  const { db, folder, pool, clock } = server;
  const treatedBefore = writtenHere(server, sha256);
  // A layout or a track that is chosen meanwhile asks for another pass.
  for (let isDone = false; !isDone; ) {
    const audio = await openAudio(server, sha256, fileName, context);
    const layoutId = layoutOf(server, sha256);
    const { path, origin } = audio;
    const measured = await pool.run(
      {
        kind: 'measure',
        path,
        fileName,
        sha256,
        layoutId,
        origin,
        treatedBefore,
        analysisPath: folder.analysis(sha256),
      },
      audio.context,
    );
    const tags = await tagsOf(server, sha256, fileName, measured.format);
    isDone = db.transaction(
      (tx) => {
        const source = tx.select().from(sources).where(eq(sources.sha256, sha256)).get();
        if (!source || source.layoutId !== layoutId) return false;
        if (origin && trackOf(source.format) !== trackOf(origin)) return false;
        // Readings speak of the bytes that came, whatever they were decoded to.
        const report = { ...measured, tags, sizeBytes: source.sizeBytes };
        tx.insert(sourceReports)
          .values({ sha256, engineVersion: ENGINE_VERSION, report, measuredAtMs: clock.now() })
          .onConflictDoUpdate({
            target: [sourceReports.sha256, sourceReports.engineVersion],
            set: { report, measuredAtMs: clock.now() },
          })
          .run();
        return true;
      },
      { behavior: 'immediate' },
    );
  }
}

async function tagsOf(server: ServerContext, sha256: string, fileName: string, format: AudioFormat): Promise<Tags> {
  const source = server.db.select().from(sources).where(eq(sources.sha256, sha256)).get();
  if (!source) throw new AppError('not-found', { what: 'source' });
  return readFileTags(await sourcePath(server, source, fileName), fileName, format);
}

/** What was done to a file that is a delivery of this very desk, by its hash. */
function writtenHere({ db }: ServerContext, sha256: string): string | null {
  const row = db
    .select()
    .from(deliveries)
    .innerJoin(treatments, eq(treatments.id, deliveries.treatmentId))
    .where(eq(sql`json_extract(${deliveries.report}, '$.value.sha256')`, sha256))
    .get();
  return row ? `gain ${formatGain(row.treatments.treatment.gainDb)}, for ${row.deliveries.spec.name}` : null;
}

export function layoutOf({ db }: ServerContext, sha256: string): string | null {
  return db.select().from(sources).where(eq(sources.sha256, sha256)).get()?.layoutId ?? null;
}

/**
 * Sets a source's channel layout by hand, or back to the file's own with null, and has it measured anew. What has been
 * written keeps its readings. Throws `bad-request` where the layout has another number of channels.
 */
export function chooseLayout(server: ServerContext, sha256: string, layoutId: string | null): void {
  const source = server.db.select().from(sources).where(eq(sources.sha256, sha256)).get();
  if (!source) throw new AppError('not-found', { what: 'source' });
  if (layoutId !== null && !layoutsOf(source.format.channels).some(({ id }) => id === layoutId)) {
    throw new AppError('bad-request', { reason: messages.otherChannelCount(source.format.channels) });
  }
  if (source.layoutId === layoutId) return;
  measureAnew(server, sha256, { layoutId });
  keepDownmixes(server, source, layoutId);
}

/** A downmix that is set says what each channel is for: that is what the layout says now. What it was can be had back by undoing. */
function keepDownmixes(server: ServerContext, source: typeof sources.$inferSelect, layoutId: string | null): void {
  const { channels, channelMask } = source.format;
  const from = loudspeakersOf(channelLayout(channels, channelMask, layoutId ?? undefined));
  const of = server.db.select().from(programmes).where(eq(programmes.sourceSha256, source.sha256)).all();
  for (const [programmeId, { treatment }] of currentTreatments(server, of)) {
    if (!treatment.downmix) continue;
    changeTreatment(server, programmeId, { downmix: from ? { ...treatment.downmix, from } : null });
  }
}

/**
 * Chooses another sound track of a source's file, counted from 1, and has it measured. What has been written keeps its
 * readings. Throws `bad-request` where there is no such track.
 */
export async function chooseTrack(server: ServerContext, sha256: string, track: number): Promise<void> {
  const { db } = server;
  const source = db.select().from(sources).where(eq(sources.sha256, sha256)).get();
  const programme = db.select().from(programmes).where(eq(programmes.sourceSha256, sha256)).get();
  if (!source || !programme) throw new AppError('not-found', { what: 'source' });
  if (!source.format.track || track < 1 || track > source.format.track.of) {
    throw new AppError('bad-request', { reason: messages.noSuchTrack });
  }
  if (track === trackOf(source.format)) return;
  const path = await sourcePath(server, source, programme.fileName);
  const { format } = await probe(path, programme.fileName, track);
  // Another track may have other channels: a layout chosen for this one says nothing of it.
  measureAnew(server, sha256, { format, layoutId: null });
}

/** Sets what a reading rests on, forgets the one that there was, and queues another. */
function measureAnew(server: ServerContext, sha256: string, change: Partial<typeof sources.$inferInsert>): void {
  const { db, queue, runner } = server;
  db.transaction(
    (tx) => {
      tx.update(sources).set(change).where(eq(sources.sha256, sha256)).run();
      tx.delete(sourceReports).where(eq(sourceReports.sha256, sha256)).run();
    },
    { behavior: 'immediate' },
  );
  queue.enqueue('measure', sha256);
  runner.wake();
}

/** What a source's file carries beside its samples. */
export async function metadataOf(server: ServerContext, sha256: string): Promise<Metadata> {
  const source = server.db.select().from(sources).where(eq(sources.sha256, sha256)).get();
  const programme = server.db.select().from(programmes).where(eq(programmes.sourceSha256, sha256)).get();
  if (!source || !programme) throw new AppError('not-found', { what: 'source' });
  const { fileName } = programme;
  return readFileMetadata(await sourcePath(server, source, fileName), fileName, source.format);
}
