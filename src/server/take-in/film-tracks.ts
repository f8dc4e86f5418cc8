import { type FilmTracks, filmFormatOf } from '@/core/film/film-tracks';
import type { programmes, sources } from '../db/schema';

/** A programme and its source. */
interface Row {
  programmes: Pick<typeof programmes.$inferSelect, 'film' | 'fileName'>;
  sources: Pick<typeof sources.$inferSelect, 'sha256' | 'format'>;
}

/** Which tracks of which film a programme is: those that it was made of, or the one that is read of a film; null where it is none of a film. */
export function filmTracksOf({ programmes: { film, fileName }, sources: { sha256, format } }: Row): FilmTracks | null {
  if (film) return film;
  if (!filmFormatOf(fileName, format.container)) return null;
  const { codec, bitRateBps, track, frames, sampleRateHz } = format;
  return { sha256, fileName, tracks: [track?.number ?? 1], codec, bitRateBps, frames, sampleRateHz };
}
