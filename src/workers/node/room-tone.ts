import { AppError } from '@/core/errors/app-error';
import { describePause } from '@/core/inspection/pause';
import { QuietestFinder, type ToneCandidate, toneFrames } from '@/core/treatment/room-tone';
import type { Padding } from '@/core/treatment/steps/padding';
import { powerToDb } from '@/core/units/decibel';
import type { PcmReader } from '@/formats/pcm-reader';
import { readStretch } from './pcm-stretch';

/** So many of the quietest half-seconds are looked at for one that is noise. */
const MOST_CANDIDATES = 80;
/** Room tone is soft by itself, or far below what is heard over it (common practice, no source). */
const SOFT_DBFS = -40;
const BELOW_PROGRAMME_DB = 20;

/** Whether anything that is added is room tone. */
export function needsTone({
  paddingStart,
  paddingEnd,
}: {
  paddingStart: Padding | null;
  paddingEnd: Padding | null;
}): boolean {
  return paddingStart?.kind === 'room-tone' || paddingEnd?.kind === 'room-tone';
}

/**
 * Where a source's room tone is: where a person has said; or the quietest half-second of the whole source, also of what is cut
 * off, that is soft and even and has no voice or tone in it.
 *
 * @throws AppError `no-room-tone`
 */
export async function findTone(
  reader: PcmReader,
  { paddingStart, paddingEnd }: { paddingStart: Padding | null; paddingEnd: Padding | null },
  fileName: string,
): Promise<ToneCandidate> {
  const { sampleRateHz, channels, frames } = reader.header.format;
  const length = toneFrames(sampleRateHz);
  const chosen = [paddingStart, paddingEnd].find(
    (pad) => pad?.kind === 'room-tone' && pad.toneStartFrame !== undefined,
  );
  if (chosen?.toneStartFrame !== undefined) {
    if (frames < length) throw new AppError('no-room-tone', { fileName });
    return { startFrame: Math.min(chosen.toneStartFrame, frames - length), frames: length };
  }
  const finder = new QuietestFinder(sampleRateHz);
  reader.seek(0);
  for (let piece = await reader.next(); piece; piece = await reader.next())
    finder.process(piece.channels, piece.frames);
  const programmeDb = powerToDb(finder.meanSquare(channels)) ?? SOFT_DBFS;
  for (const candidate of finder.candidates(MOST_CANDIDATES)) {
    const pause = describePause(
      await readStretch(reader, candidate.startFrame, candidate.frames),
      candidate.startFrame,
      sampleRateHz,
    );
    if (!pause) continue;
    // They come from the quietest on: none of the others is softer.
    if (pause.rmsDbfs > SOFT_DBFS && pause.rmsDbfs > programmeDb - BELOW_PROGRAMME_DB) break;
    if (pause.isNoise) return candidate;
  }
  throw new AppError('no-room-tone', { fileName });
}
