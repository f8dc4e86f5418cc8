import { existsSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { and, desc, eq, inArray } from 'drizzle-orm';
import { AppError, type ErrorRecord, toErrorRecord } from '@/core/errors/app-error';
import type { RecordingState } from '@/workers/line-protocol';
import { readFileTags } from '@/workers/node/file-metadata';
import type { FollowedFile } from '@/workers/node/followed-file';
import { peekHeader } from '@/workers/node/measure-file';
import type { ServerContext } from '../context';
import { recordings } from '../db/schema';
import type { RecordingFacts } from '../db/stored/recording';
import { newId } from '../ids';
import { addMarker } from '../jobs/markers';
import { log } from '../log';
import { type MeasuredAhead, takeInOwn } from '../take-in/take-in';
import type { LineRow } from './lines';
import { lineMessages as messages } from './messages';

type RecordingRow = typeof recordings.$inferSelect;

/** A recording as pages see it. */
export interface RecordingView {
  id: string;
  fileName: string;
  state: RecordingRow['state'];
  startMs: number;
  /** Null before anything was told of it. */
  facts: RecordingFacts | null;
  error: ErrorRecord | null;
  jobId: string;
  programmeId: string | null;
}

/** Notes that a line is to be recorded; returns the recording's id. Throws `already-recording`. */
export function beginRecording({ db, clock }: ServerContext, { id: lineId, jobId, name }: LineRow): string {
  const startMs = clock.now();
  const row = { id: newId(), lineId, jobId, fileName: fileNameOf(name, startMs), state: 'open' as const, startMs };
  return db.transaction(
    (tx) => {
      const isOpen = and(eq(recordings.lineId, lineId), eq(recordings.state, 'open'));
      if (tx.select().from(recordings).where(isOpen).get()) throw new AppError('already-recording', { name });
      tx.insert(recordings).values(row).run();
      return row.id;
    },
    { behavior: 'immediate' },
  );
}

/** Notes how far a recording is. */
export function noteRecording({ db }: ServerContext, state: RecordingState, startMs: number): void {
  db.update(recordings)
    .set({ startMs: Math.round(startMs), facts: factsOf(state) })
    .where(and(eq(recordings.id, state.recordingId), eq(recordings.state, 'open')))
    .run();
}

/** A recording has ended, whyever: what there is of it becomes a programme of its job. */
export async function endRecording(
  server: ServerContext,
  state: RecordingState,
  startMs: number,
  followed?: FollowedFile,
): Promise<void> {
  server.db
    .update(recordings)
    .set({
      state: 'recorded',
      startMs: Math.round(startMs),
      facts: factsOf(state),
      error: state.failure ?? null,
    })
    .where(and(eq(recordings.id, state.recordingId), eq(recordings.state, 'open')))
    .run();
  const analysisPath = server.folder.recordingAnalysis(state.recordingId);
  const report = await followed?.finish(analysisPath);
  await takeInRecording(server, state.recordingId, report && { report, analysisPath });
}

/** What a process that was ended has left: its recordings are whole but for the last second, and are taken in now. */
export async function recoverRecordings(server: ServerContext): Promise<void> {
  const { db, folder } = server;
  const left = db
    .select()
    .from(recordings)
    .where(inArray(recordings.state, ['open', 'recorded']))
    .all();
  for (const { id, state, facts, fileName } of left) {
    if (state === 'open') {
      const header = existsSync(folder.recording(id))
        ? await peekHeader(folder.recording(id), fileName).catch(() => undefined)
        : undefined;
      const known = facts ?? { sampleRateHz: 0, frames: 0, clippedSamples: 0, gaps: [], markerFrames: [] };
      const frames = header?.format.frames ?? 0;
      db.update(recordings)
        .set({
          state: 'recorded',
          facts: { ...known, frames, sampleRateHz: header?.format.sampleRateHz ?? known.sampleRateHz },
          error: new AppError('recording-interrupted', { fileName }).toJSON(),
        })
        .where(eq(recordings.id, id))
        .run();
    }
    await takeInRecording(server, id);
  }
}

/** Takes a recording in, with its markers. What fails is said, and tried again at the next start. */
async function takeInRecording(server: ServerContext, recordingId: string, measured?: MeasuredAhead): Promise<void> {
  const { db, folder } = server;
  const row = db.select().from(recordings).where(eq(recordings.id, recordingId)).get();
  if (row?.state !== 'recorded') return;
  const path = folder.recording(recordingId);
  const set = (change: Partial<RecordingRow>) =>
    db.update(recordings).set(change).where(eq(recordings.id, recordingId)).run();
  if ((row.facts?.frames ?? 0) === 0 || !existsSync(path)) {
    await rm(path, { force: true });
    set({ state: 'failed', error: row.error ?? new AppError('no-audio', { fileName: row.fileName }).toJSON() });
    return;
  }
  try {
    const { jobId, fileName, facts } = row;
    const { programmeId } = await takeInOwn(
      server,
      { jobId, fileName },
      path,
      await withTags(measured, path, fileName),
    );
    set({ state: 'taken-in', programmeId });
    for (const [i, startFrame] of (facts?.markerFrames ?? []).entries()) {
      addMarker(server, programmeId, { startFrame, endFrame: null, name: messages.marker(i + 1) });
    }
  } catch (error) {
    log.error({ err: error }, 'a recording could not be taken in');
    set({ error: toErrorRecord(error) });
  }
}

/** As a source that is measured has them. */
async function withTags(measured: MeasuredAhead | undefined, path: string, fileName: string) {
  if (!measured) return undefined;
  const { report, analysisPath } = measured;
  return { analysisPath, report: { ...report, tags: await readFileTags(path, fileName, report.format) } };
}

/** The latest first. */
export function recordingsOf({ db }: Pick<ServerContext, 'db'>, lineId: string, most = 20): RecordingView[] {
  return db
    .select()
    .from(recordings)
    .where(eq(recordings.lineId, lineId))
    .orderBy(desc(recordings.startMs))
    .limit(most)
    .all()
    .map(({ lineId: _, ...own }) => own);
}

function factsOf({ sampleRateHz, frames, clippedSamples, gaps, markerFrames }: RecordingState): RecordingFacts {
  return { sampleRateHz, frames, clippedSamples, gaps, markerFrames };
}

/** A line's name and the time, which no other recording of it has. */
function fileNameOf(lineName: string, startMs: number): string {
  const [day, time] = new Date(startMs).toISOString().split('T') as [string, string];
  return `${lineName.replace(/[/\\:*?"<>|]/g, ' ').trim()} ${day} ${time.slice(0, 8).replaceAll(':', '-')}.wav`;
}
