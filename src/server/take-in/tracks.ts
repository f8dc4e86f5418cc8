/** Sound tracks of a film that are put together, and taken in as programmes of their own. */
import { rm } from 'node:fs/promises';
import * as z from 'zod';
import { decode } from '@/codecs/decode';
import { probeTracks } from '@/codecs/tracks';
import { AppError } from '@/core/errors/app-error';
import { parseTrackLists, trackListText } from '@/core/film/track-lists';
import { needsDecoding } from '@/formats/audio-format';
import { peekHeader } from '@/workers/node/measure-file';
import type { ServerContext } from '../context';
import { newId } from '../ids';
import type { TaskContext } from '../tasks/runner';
import { type TaskView, taskView } from '../tasks/view';
import { titleFromFileName } from './file-name';
import { takeInTracksMessages as messages } from './messages';
import { programmeFile } from './programme-file';
import { takeInOwn } from './take-in';
import { partOf, partSubject, partsUnderWay } from './under-way';

/** The tracks of each programme, counted from 1. */
export const trackLists = z
  .array(z.array(z.int().positive().max(999)).min(1).max(64))
  .min(1)
  .max(64);

/** Tracks that are being put together, or could not be. */
export interface TracksView {
  /** As `1+2`. */
  tracks: string;
  task: TaskView;
}

/**
 * Has tracks of a programme's file put together and taken in beside it, a programme for each list. Asked twice, it is done once.
 *
 * @param lists the tracks of each programme, counted from 1
 * @throws AppError `not-found`, `no-such-track`, `tracks-differ` or `bad-request` of a file that has one track only
 */
export async function takeInTracks(
  server: ServerContext,
  programmeId: string,
  lists: readonly number[][],
): Promise<void> {
  const { programme, source, path } = await programmeFile(server, programmeId);
  if (!needsDecoding(source.format)) throw new AppError('bad-request', { reason: messages.oneTrack });
  for (const numbers of lists) await probeTracks(path, programme.fileName, numbers);
  for (const numbers of lists) server.queue.enqueue('tracks', partSubject(programmeId, trackListText(numbers)));
  server.runner.wake();
}

/** Puts tracks together and takes them in. Done again after a crash, it ends in the same state: the same bytes are there already. */
export async function performTracks(
  server: ServerContext,
  subjectId: string,
  { signal, onProgress }: TaskContext,
): Promise<void> {
  const { programmeId, part: tracks } = partOf(subjectId);
  const { programme, source, path } = await programmeFile(server, programmeId);
  const numbers = parseTrackLists(tracks)?.[0] ?? [];
  const probed = await probeTracks(path, programme.fileName, numbers);
  const temporaryPath = server.folder.incoming(newId());
  const startedMs = performance.now();
  try {
    const complaints = await decode(path, probed, temporaryPath, programme.fileName, {
      isTimed: true,
      signal,
      onProgress: (seconds) =>
        onProgress({
          fraction: Math.min(1, seconds / Math.max(probed.format.durationSeconds, 1e-3)),
          timesRealTime: seconds / ((performance.now() - startedMs) / 1000),
        }),
    });
    // Damage is told of a source that is decoded: what is put together would pass for whole.
    if (complaints > 0) throw new AppError('decode-failed', { fileName: programme.fileName, reason: messages.damaged });
    const { codec, bitRateBps } = probed.format;
    const { frames, sampleRateHz } = (await peekHeader(temporaryPath, programme.fileName)).format;
    const { sha256 } = source;
    const film = { sha256, fileName: programme.fileName, tracks: numbers, codec, bitRateBps, frames, sampleRateHz };
    const fileName = messages.fileName(titleFromFileName(programme.fileName), tracks);
    await takeInOwn(
      server,
      { jobId: programme.jobId, fileName, title: messages.title(programme.title, tracks), film },
      temporaryPath,
    );
  } finally {
    await rm(temporaryPath, { force: true });
  }
}

/** The tracks of films that are being put together, or could not be, by programme. */
export function tracksUnderWay(server: ServerContext, programmeIds: readonly string[]): Map<string, TracksView[]> {
  const open = partsUnderWay(server, 'tracks', programmeIds);
  return new Map(
    [...open].map(([id, parts]) => [id, parts.map(({ part, task }) => ({ tracks: part, task: taskView(task) }))]),
  );
}
