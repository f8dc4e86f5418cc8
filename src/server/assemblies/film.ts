/** A film and the sound that goes back into it: each programme by its verified file. */
import { eq } from 'drizzle-orm';
import { type DeliveryFormat, deliveryFormatSchema, describeFormat, resolveFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { type FilmCodec, type FilmFormat, fileKindOfCodec, filmCodecName } from '@/core/film/film-formats';
import { codecOfKind, codecsFor, type FilmTracks, filmFormatOf, likeTrack } from '@/core/film/film-tracks';
import { trackListText } from '@/core/film/track-lists';
import { type AssessmentState, verdictState } from '@/core/spec/assessment';
import type { Treatment } from '@/core/treatment/treatment';
import type { Level } from '@/core/units/decibel';
import { timeCodeAt } from '@/core/units/time-code';
import type { AudioFormat } from '@/formats/audio-format';
import type { Picture } from '@/formats/metadata';
import { readFileMetadata } from '@/workers/node/file-metadata';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes, sources } from '../db/schema';
import type { StoredAssemblyOrder } from '../db/stored/assembly';
import { predictionOf, rowOf } from '../deliveries/rows';
import { type RowView, viewSheet } from '../deliveries/sheet';
import type { DeliveryView } from '../jobs/delivery-view';
import { programmesWhere } from '../jobs/programme-view';
import { type LineUpView, lineUpOf } from '../line-ups/line-ups';
import { filmTracksOf } from '../take-in/film-tracks';
import { sourcePath } from '../take-in/reference';
import { filmMessages as messages } from './messages';

/** A coder's last packet is no longer than this. */
const LAST_PACKET_SECONDS = 0.05;

/** Sound of a film: a programme, and its file that goes back. */
interface SoundView {
  programmeId: string;
  title: string;
  /** As `1+2`; null of a programme that is none of this film. */
  tracks: string | null;
  /** What its tracks are kept as, such as `PCM`. */
  codecText: string | null;
  /** Its verified file with the current settings; null where there is none that can go back. */
  delivery: {
    id: string;
    fileName: string;
    formatText: string;
    state: AssessmentState;
    integratedLufs: Level;
    truePeakDbtp: Level;
  } | null;
  /** Why it can't go back as it is; null where it can. */
  problem: string | null;
}

/** A film, before its sound is put back. */
export interface FilmView {
  fileName: string;
  sha256: string;
  picture: Picture | null;
  /** Of the first frame of its sound; null where it states none. */
  timeCode: string | null;
  /** How many sound tracks it has, and those that are copied as they are. */
  tracks: number;
  copiedTracks: number[];
  sounds: SoundView[];
  /** What each is delivered as, unless a person chooses: the codec, the depth and the bit rate of the first track. */
  wanted: DeliveryFormat;
  wantedText: string;
  /** Why nothing can be put back; null where it can. */
  problem: string | null;
}

/** A sound with all that is known of it. */
interface Sound {
  programme: typeof programmes.$inferSelect;
  format: AudioFormat;
  film: FilmTracks | null;
  codecs: readonly FilmCodec[];
  delivery: DeliveryView | undefined;
  problem: string | null;
}

interface Film {
  lineUp: LineUpView;
  /** The film that the first programme is of that is of any. */
  film: FilmTracks;
  format: FilmFormat;
  sounds: Sound[];
}

/** A film of a line-up, and how far its sound is. Throws `not-found`, `bad-request` where no programme is of a film, or of a file that is gone. */
export async function viewFilm(server: ServerContext, lineUpId: string): Promise<FilmView> {
  await forecastWritten(server, lineUpId);
  const own = filmOf(server, lineUpId);
  const { film, sounds } = own;
  const source = server.db.select().from(sources).where(eq(sources.sha256, film.sha256)).get();
  if (!source) throw new AppError('not-found', { what: 'source' });
  const path = await sourcePath(server, source, film.fileName);
  const { picture, timeCode, tracks } = await readFileMetadata(path, film.fileName, source.format);
  const of = Math.max(1, tracks.length);
  const replaced = sounds.flatMap((sound) => sound.film?.tracks ?? []);
  const wanted = wantedOf(own);
  return {
    fileName: film.fileName,
    sha256: film.sha256,
    picture,
    timeCode: timeCode && timeCodeAt(timeCode, 0, source.format.sampleRateHz),
    tracks: of,
    copiedTracks: Array.from({ length: of }, (_, i) => i + 1).filter((number) => !replaced.includes(number)),
    sounds: sounds.map((sound) => viewSound(sound)),
    wanted,
    wantedText: describeFormat(resolveFormat(wanted, sounds[0]?.format ?? source.format)),
    problem: problemOf(own),
  };
}

/**
 * What a film is written from, as it is now.
 *
 * @throws AppError `sounds-not-delivered`, `bad-request` where what goes back does not fit, or `not-found`
 */
export function filmOrder(server: ServerContext, lineUpId: string): Omit<StoredAssemblyOrder, 'spec' | 'format'> {
  const own = filmOf(server, lineUpId);
  const { lineUp, film, sounds } = own;
  const problem = problemOf(own);
  if (problem !== null) throw new AppError('bad-request', { reason: problem });
  const missing = sounds.filter(({ delivery }) => !delivery).map(({ programme }) => programme.title);
  if (missing.length > 0) {
    throw new AppError('sounds-not-delivered', { sounds: missing.length, titles: missing.join(', ') });
  }
  const members = sounds.flatMap(({ programme, film: own, delivery }) => {
    if (!own || !delivery) return [];
    const { id: programmeId, sourceSha256, fileName, title, tags } = programme;
    const { treatment, id: deliveryId } = delivery;
    return [
      {
        programmeId,
        sourceSha256,
        fileName,
        title,
        gapSeconds: 0,
        treatment,
        tags: tags ?? NO_TAGS,
        deliveryId,
        tracks: own.tracks,
      },
    ];
  });
  const { sha256, fileName } = film;
  return {
    name: lineUp.name,
    isBook: false,
    form: 'film',
    record: lineUp.record,
    cover: null,
    mixId: null,
    film: { sha256, fileName },
    members,
  };
}

/** Whether what was written is as it is set now is not known before that is worked out. */
async function forecastWritten(server: ServerContext, lineUpId: string): Promise<void> {
  const { jobId, members } = lineUpOf(server, lineUpId);
  const rows = viewSheet(server, jobId).rows.filter(
    ({ programmeId, prediction, problem, delivery }) =>
      members.some((member) => member.programmeId === programmeId) && !prediction && !problem && delivery?.written,
  );
  for (const { id } of rows) await predictionOf(server, rowOf(server, id));
}

function filmOf(server: ServerContext, lineUpId: string): Film {
  const lineUp = lineUpOf(server, lineUpId);
  const ids = lineUp.members.map(({ programmeId }) => programmeId);
  const rows = new Map(programmesWhere(server, among(programmes.id, ids)).map((row) => [row.programmes.id, row]));
  const found = ids.flatMap((id) => {
    const row = rows.get(id);
    return row ? [{ programme: row.programmes, format: row.sources.format, film: filmTracksOf(row) }] : [];
  });
  const film = found.find((own) => own.film)?.film;
  const source = film && server.db.select().from(sources).where(eq(sources.sha256, film.sha256)).get();
  const format = film && source && filmFormatOf(film.fileName, source.format.container);
  if (!film || !format) throw new AppError('bad-request', { reason: messages.noFilm });
  const sheet = viewSheet(server, lineUp.jobId).rows;
  const sounds = found.map(({ film: tracks, ...own }): Sound => {
    const isOfIt = tracks?.sha256 === film.sha256;
    const codecs = isOfIt ? codecsFor(format, tracks) : [];
    const row = bestRow(
      sheet.filter(({ programmeId }) => programmeId === own.programme.id),
      codecs,
    );
    return {
      ...own,
      film: isOfIt ? tracks : null,
      codecs,
      delivery: row?.delivery ?? undefined,
      problem: isOfIt ? soundProblem(tracks, codecs, row, format) : messages.otherFilm,
    };
  });
  return { lineUp, film, format, sounds };
}

/** Of the files of a programme that can go back, the one whose codec its tracks have, or the next best; of several, the newest. */
function bestRow(rows: readonly RowView[], codecs: readonly FilmCodec[]): RowView | undefined {
  const placed = rows.flatMap((row) => {
    const { trim, prediction, isStale, delivery } = row;
    const written = delivery?.written;
    const isReady = written && (written.verdict.inside || delivery.acceptedReason !== null);
    // What is not known to be as it was written may be another.
    if (!isReady || trim !== null || prediction === null || isStale || delivery.files.length !== 1) return [];
    const codec = codecOfKind(codecs, delivery.format?.kind ?? 'wav');
    return codec === undefined ? [] : [{ row, place: codecs.indexOf(codec), atMs: written.atMs }];
  });
  return placed.toSorted((a, b) => a.place - b.place || b.atMs - a.atMs)[0]?.row;
}

function soundProblem(
  { tracks, ...length }: FilmTracks,
  codecs: readonly FilmCodec[],
  row: RowView | undefined,
  { extensions: [extension] }: FilmFormat,
): string | null {
  if (codecs.length === 0) return messages.takesNoPcm(extension.toUpperCase());
  if (!row) return null;
  const { delivery } = row;
  const format = delivery?.written?.format;
  if (!format) return null;
  if (changesLength(delivery.treatment) || !isAsLong(format, length)) return messages.otherLength;
  const { channels } = format;
  return tracks.length > 1 && channels !== tracks.length ? messages.otherChannels(channels, tracks.length) : null;
}

/** What is resampled may end within a frame of where it did; a coder's last packet may be played out. */
function isAsLong(
  { frames, sampleRateHz, bitDepth }: AudioFormat,
  film: Pick<FilmTracks, 'frames' | 'sampleRateHz'>,
): boolean {
  const differsSeconds = Math.abs(frames / sampleRateHz - film.frames / film.sampleRateHz);
  return differsSeconds <= (bitDepth === null ? LAST_PACKET_SECONDS : 1.5 / sampleRateHz);
}

function changesLength({ trim, paddingStart, paddingEnd }: Treatment): boolean {
  return trim !== null || paddingStart !== null || paddingEnd !== null;
}

function problemOf({ sounds }: Film): string | null {
  const numbers = sounds.flatMap(({ film }) => film?.tracks ?? []);
  const twice = numbers.find((number, i) => numbers.indexOf(number) !== i);
  if (twice !== undefined) return messages.twice(twice);
  const wrong = sounds.find(({ problem }) => problem !== null);
  return wrong ? `${wrong.programme.title}: ${wrong.problem}` : null;
}

function viewSound({ programme: { id, title }, film, codecs, delivery, problem }: Sound): SoundView {
  const codec = delivery?.format ? codecOfKind(codecs, delivery.format.kind) : codecs[0];
  const written = delivery?.written;
  return {
    programmeId: id,
    title,
    tracks: film && trackListText(film.tracks),
    codecText: codec ? filmCodecName(codec) : null,
    delivery:
      delivery && written
        ? {
            id: delivery.id,
            fileName: delivery.fileName,
            formatText: delivery.format ? describeFormat(delivery.format) : '',
            state: verdictState(written.verdict),
            integratedLufs: written.readings.integratedLufs,
            truePeakDbtp: written.readings.truePeakDbtp,
          }
        : null,
    problem,
  };
}

function wantedOf({ sounds }: Film): DeliveryFormat {
  const first = sounds.find(({ film }) => film);
  const kind = fileKindOfCodec(first?.codecs[0] ?? 'pcm');
  const asked = deliveryFormatSchema.parse({ kind });
  return first?.film ? likeTrack(asked, { ...first.format, bitRateBps: first.film.bitRateBps }) : asked;
}
