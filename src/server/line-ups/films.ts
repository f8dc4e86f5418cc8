/** Which programmes are sound of which film. */
import { and, asc, eq, isNull } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { ServerContext } from '../context';
import { programmes, sources } from '../db/schema';
import { titleFromFileName } from '../take-in/file-name';
import { filmTracksOf } from '../take-in/film-tracks';
import { createLineUp, listLineUps } from './line-ups';
import { filmMessages as messages } from './messages';

/** Sound of one film, in the order of its tracks. */
export interface FilmOfJob {
  sha256: string;
  name: string;
  programmeIds: string[];
  /** Some of it was made of the film's tracks here: it is not the film alone that is in the job. */
  isMadeUp: boolean;
}

/** The films of a job. A film whose own track is among those that others were made of is none of its sounds. */
export function filmsOf({ db }: ServerContext, jobId: string): FilmOfJob[] {
  const rows = db
    .select()
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(and(eq(programmes.jobId, jobId), isNull(programmes.removedAtMs)))
    .orderBy(asc(programmes.position), asc(programmes.createdAtMs))
    .all();
  const films = new Map<string, { id: string; tracks: number[]; isMade: boolean; name: string }[]>();
  for (const row of rows) {
    const film = filmTracksOf(row);
    if (!film) continue;
    const { sha256, tracks, fileName } = film;
    const isMade = row.programmes.film !== null;
    const name = isMade ? titleFromFileName(fileName) : row.programmes.title;
    const own = { id: row.programmes.id, tracks, name, isMade };
    films.set(sha256, [...(films.get(sha256) ?? []), own]);
  }
  return [...films].map(([sha256, all]) => {
    const made = new Set(all.filter(({ isMade }) => isMade).flatMap(({ tracks }) => tracks));
    const sounds = all.filter(({ isMade, tracks }) => isMade || tracks.every((number) => !made.has(number)));
    return {
      sha256,
      name: (all.find(({ isMade }) => !isMade) ?? all[0])?.name ?? '',
      programmeIds: sounds.toSorted((a, b) => (a.tracks[0] ?? 0) - (b.tracks[0] ?? 0)).map(({ id }) => id),
      isMadeUp: made.size > 0,
    };
  });
}

/**
 * The line-up in which the sound of a programme's film is: the one that is there, or one that is made of all of it.
 *
 * @throws AppError `not-found`, or `bad-request` where it is of no film
 */
export function filmLineUp(server: ServerContext, programmeId: string): string {
  const { db } = server;
  return db.transaction(
    () => {
      const row = db
        .select()
        .from(programmes)
        .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
        .where(and(eq(programmes.id, programmeId), isNull(programmes.removedAtMs)))
        .get();
      if (!row) throw new AppError('not-found', { what: 'programme' });
      const { jobId } = row.programmes;
      const film = filmTracksOf(row);
      const sounds = filmsOf(server, jobId).find(({ sha256 }) => sha256 === film?.sha256);
      if (!sounds) throw new AppError('bad-request', { reason: messages.ofNoFilm });
      const known = listLineUps(server, jobId).find(
        ({ kind, members }) =>
          kind === 'film' && members.some((member) => sounds.programmeIds.includes(member.programmeId)),
      );
      const { name, programmeIds } = sounds;
      const members = programmeIds.map((id) => ({ programmeId: id }));
      return known?.id ?? createLineUp(server, jobId, { kind: 'film', name, members });
    },
    { behavior: 'immediate' },
  );
}
