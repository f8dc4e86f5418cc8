import { rename, rm, stat } from 'node:fs/promises';
import { extname, join } from 'node:path';
import { eq } from 'drizzle-orm';
import { decode } from '@/codecs/decode';
import { probeTracks } from '@/codecs/tracks';
import { type Certificate, certifiedReadingsOf } from '@/core/delivery/certificate';
import { writtenFacts } from '@/core/delivery/facts';
import type { ResolvedFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { type FilmFormat, filmCodecName } from '@/core/film/film-formats';
import { codecOfKind, filmFormatOf } from '@/core/film/film-tracks';
import { trackListText } from '@/core/film/track-lists';
import { plainName } from '@/core/lineup/track-name';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { assess } from '@/core/spec/assess';
import { missedOf } from '@/core/spec/assessment';
import type { AudioFormat } from '@/formats/audio-format';
import type { AssembledFile } from '@/workers/node/assembly-order';
import { type FilmSound, reportInFilm, writeFilm } from '@/workers/node/film-file';
import { hashFile } from '@/workers/node/hash-file';
import { decodedFormat, peekHeader } from '@/workers/node/measure-file';
import type { FileReport } from '@/workers/protocol';
import { certificateOf } from '../certificates/certificate';
import { certificatePdf } from '../certificates/pdf';
import type { ServerContext } from '../context';
import { sources } from '../db/schema';
import type { AssemblyOutcome, StoredAssemblyOrder, WrittenSound } from '../db/stored/assembly';
import { deliveryRecord, writtenDelivery } from '../deliveries/delivery-record';
import { newId } from '../ids';
import { layoutOf } from '../measure/measure-source';
import { currentHash } from '../storage/intact';
import { checkSource, sourcePath } from '../take-in/reference';
import type { TaskContext } from '../tasks/runner';
import { addFile } from './file-steps';
import { filmMessages as messages } from './messages';

/** Of the whole, until the film is written; the rest is to decode and measure it. */
const WRITING_SHARE = 0.5;

/**
 * Puts verified files back into their film, and certifies what was decoded and measured of the film that was written.
 *
 * @throws AppError as `writeFilm`; `delivery-altered` or `not-found` where a file is not what was verified; what is wrong with the film's own file
 */
export async function writeFilmInto(
  server: ServerContext,
  order: StoredAssemblyOrder,
  temporary: string,
  { signal, onProgress }: TaskContext,
): Promise<AssemblyOutcome> {
  const { name, film, members } = order;
  const source = film && server.db.select().from(sources).where(eq(sources.sha256, film.sha256)).get();
  const format = source && filmFormatOf(film.fileName, source.format.container);
  if (!format) throw new AppError('not-found', { what: 'source' });
  const filmPath = await sourcePath(server, source, film.fileName);
  const intact = checkSource(server, source, film.fileName);
  // Whoever waits for it is told; meanwhile nobody may be.
  intact.catch(() => undefined);
  const ready: Ready[] = [];
  for (const member of members) ready.push(await readySound(server, format, member));
  const fileName = `${plainName(name)}${extname(film.fileName)}`;
  const temporaryPath = join(temporary, `.${newId()}.part`);
  const durationSeconds = source.format.durationSeconds;
  const reports = new Map<FilmSound, FileReport>();
  const tell = (fraction: number) => onProgress({ fraction, timesRealTime: null });
  const { movedSeconds } = await writeFilm(
    {
      filmPath,
      temporaryPath,
      format,
      sounds: ready.map(({ sound }) => sound),
      fileName,
      durationSeconds,
      signal,
      onProgress: (seconds) => tell(WRITING_SHARE * Math.min(1, seconds / Math.max(durationSeconds, 1e-3))),
    },
    async ({ sound, decodedPath, origin, isAsMeasured }) => {
      const { layoutId, delivery } = ready.find((own) => own.sound === sound) as Ready;
      const known = isAsMeasured ? measuredNow(delivery.report) : null;
      if (known) {
        reports.set(sound, reportInFilm(known, origin));
        return;
      }
      const share = (1 - WRITING_SHARE) / ready.length;
      const from = WRITING_SHARE + share * reports.size;
      const report = await measureDecoded(server, decodedPath, fileName, layoutId, origin, {
        signal,
        onProgress: ({ fraction }) => tell(from + share * fraction),
      });
      reports.set(sound, report);
    },
  );
  await intact;
  const finalPath = join(temporary, fileName);
  await rename(temporaryPath, finalPath);
  const { size: sizeBytes } = await stat(finalPath);
  const written: AssembledFile = { fileName, role: 'film', track: null, sizeBytes, sha256: await hashFile(finalPath) };
  const { sha256 } = written;
  const sounds = ready.map((own, i): WrittenSound => {
    const report = { ...(reports.get(own.sound) as FileReport), sha256, sizeBytes };
    const { member, formatText } = own;
    const movedMs = Math.round(1e6 * (movedSeconds[i] ?? 0)) / 1e3;
    const { title, tracks } = member;
    const { spec } = own.delivery;
    return { title, tracks, formatText, spec, report, verdict: verdictOf(own, report), movedMs };
  });
  const certificates = ready.map((own, i) => certificateIn(server, own, sounds[i] as WrittenSound, written));
  const certificateName = messages.certificates(plainName(name));
  const json = Buffer.from(`${JSON.stringify(certificates, null, 2)}\n`);
  const files = [
    written,
    await addFile(temporary, `${certificateName}.pdf`, await certificatePdf(certificates), 'certificate'),
    await addFile(temporary, `${certificateName}.json`, json, 'certificate'),
  ];
  return { ...filmOutcome(ready.map((own) => own.format)[0] as ResolvedFormat, sounds), files };
}

/** What was read of a file, unless another engine has read it. */
function measuredNow(report: FileReport | null): FileReport | null {
  return report?.readings.engineVersion === ENGINE_VERSION ? report : null;
}

/** What is told of a film as a whole: what its sounds are, and the readings of the one that stands worst. */
export function filmOutcome(format: ResolvedFormat, sounds: WrittenSound[]): Omit<AssemblyOutcome, 'files'> {
  const worst =
    sounds.find(({ verdict }) => missedOf(verdict).length > 0) ??
    sounds.find(({ verdict }) => !verdict.inside) ??
    (sounds[0] as WrittenSound);
  const { report, verdict } = worst;
  return { format, report, verdict, rows: [], reduction: null, cd: null, residual: null, sounds };
}

/** Reads sound of a film that was written once more: it is decoded from its tracks, and measured. */
export async function measureTracks(
  server: ServerContext,
  path: string,
  { fileName, tracks, layoutId }: { fileName: string; tracks: readonly number[]; layoutId: string | null },
  context: TaskContext,
): Promise<FileReport> {
  const decodedPath = `${path}.samples.part`;
  try {
    const probed = await probeTracks(path, fileName, tracks);
    const decodeErrors = await decode(path, probed, decodedPath, fileName, { signal: context.signal });
    const { format } = await peekHeader(decodedPath, fileName);
    const origin = { ...decodedFormat(probed.format, format), decodeErrors };
    return await measureDecoded(server, decodedPath, fileName, layoutId, origin, context);
  } finally {
    await rm(decodedPath, { force: true });
  }
}

function measureDecoded(
  { pool }: ServerContext,
  path: string,
  fileName: string,
  layoutId: string | null,
  origin: AudioFormat,
  context: TaskContext,
): Promise<FileReport> {
  return pool.run(
    { kind: 'measure', path, fileName, sha256: '', layoutId, origin, treatedBefore: null, analysisPath: null },
    context,
  );
}

type Member = StoredAssemblyOrder['members'][number];

/** A verified file, on its way into its tracks. */
interface Ready {
  member: Member;
  delivery: ReturnType<typeof writtenDelivery>;
  sound: FilmSound;
  format: ResolvedFormat;
  /** Of what it was made from. */
  source: AudioFormat;
  /** What it becomes in the film. */
  formatText: string;
  layoutId: string | null;
}

/** Holds a file to its hash, and says how it goes in. */
async function readySound(server: ServerContext, film: FilmFormat, member: Member): Promise<Ready> {
  const delivery = writtenDelivery(server, member.deliveryId ?? '');
  const [file] = delivery.outcome?.files ?? [];
  const { format, jobId } = delivery;
  const codec = format && codecOfKind(film.codecs, format.kind);
  if (!file || !codec) throw new AppError('not-found', { what: 'delivery' });
  const soundPath = server.folder.delivery(jobId, file.fileName);
  if ((await currentHash(soundPath, file.fileName)) !== file.sha256) {
    throw new AppError('delivery-altered', { fileName: file.fileName });
  }
  const bitDepth = codec === 'pcm' ? (format.bitDepth as FilmSound['bitDepth']) : null;
  const layoutId = writtenLayoutId(format.channels, layoutOf(server, member.sourceSha256));
  const formatText = messages.goesInAs(film.extensions[0], trackListText(member.tracks), filmCodecName(codec), format);
  const source = deliveryRecord(server, delivery.id).sources.format;
  const sound = { tracks: member.tracks, soundPath, bitDepth };
  return { member, delivery, sound, format, source, formatText, layoutId };
}

/** What its spec says of a sound as it was read from the film; what coders put around it is no other length. */
function verdictOf({ delivery, format, source, member }: Ready, report: FileReport) {
  const { outcome, report: file, spec } = delivery;
  const treatment = outcome?.treatment ?? member.treatment;
  const made = { format, treatment, source, expectedFrames: outcome?.expectedFrames ?? null };
  const { length } = writtenFacts(file ?? report, made);
  return assess(spec, { ...writtenFacts(report, made), length });
}

/** The certificate of a file, of what was read from the film that it went into. */
function certificateIn(
  server: ServerContext,
  { delivery }: Ready,
  { formatText, report, verdict }: WrittenSound,
  { fileName, sizeBytes, sha256 }: AssembledFile,
): Certificate {
  const { readings, format } = report;
  return {
    ...certificateOf(server, delivery.id),
    inside: verdict.inside,
    writtenAt: new Date(server.clock.now()).toISOString(),
    approved: null,
    files: [{ fileName, channel: null, sizeBytes, sha256 }],
    formatText,
    layout: format.layout,
    frames: format.frames,
    durationSeconds: format.durationSeconds,
    audioSha256: null,
    readings: certifiedReadingsOf(readings),
    checks: verdict.items.map(({ name, found, required, inside }) => ({ name, found, required, inside })),
    notJudged: [...verdict.notJudged],
  };
}
