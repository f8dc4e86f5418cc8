/** `opsimeter master` of a film: its sound is mastered and put back, and everything else is copied. */
import { existsSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join, parse } from 'node:path';
import { probeTracks } from '@/codecs/tracks';
import { writtenFacts } from '@/core/delivery/facts';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import {
  FILM_CODECS,
  type FilmCodec,
  type FilmFormat,
  fileKindOfCodec,
  filmCodecFor,
  filmCodecName,
} from '@/core/film/film-formats';
import { likeTrack } from '@/core/film/film-tracks';
import { trackListText } from '@/core/film/track-lists';
import { findingsOf } from '@/core/findings/findings';
import { assess } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import type { AudioFormat } from '@/formats/audio-format';
import { fileError } from '@/workers/node/file-bytes';
import { type FilmSound, type ReadSound, reportInFilm, type WrittenFilm, writeFilm } from '@/workers/node/film-file';
import { hashFile } from '@/workers/node/hash-file';
import { peekHeader } from '@/workers/node/measure-file';
import { placeFile } from '@/workers/node/place-file';
import type { FileReport } from '@/workers/protocol';
import { EXIT, json, type Output } from './commands';
import type { Flags } from './flags';
import {
  type MasteredFile,
  masterFile,
  outcomeJson,
  outcomeLines,
  outcomeText,
  printing,
  SILENT,
} from './master-command';
import { type MasterOptions, masterOptions, type SourceFacts } from './master-options';
import { measureAudio } from './measuring';
import { filmCommandMessages as messages } from './messages';

interface FilmOptions {
  film: FilmFormat;
  flags: Flags;
  /** The tracks of each programme; the first of the film where none are stated. */
  programmes: readonly (readonly number[] | undefined)[];
  asJson: boolean;
  /** A layout chosen by hand. */
  layoutId?: string | undefined;
  /** Hash the film that is written as well. */
  hash?: boolean | undefined;
}

/** One programme of a film: mastered, and read again from the film that was written. */
interface FilmProgramme {
  tracks: readonly number[];
  codec: FilmCodec;
  result: MasteredFile;
  sound: FilmSound;
  /** Of the film that was written. */
  report?: FileReport;
}

const TAG_FLAGS = ['title', 'artist', 'album', 'track', 'year', 'genre', 'comment', 'isrc', 'cover'] as const;
const LENGTH_STEPS = ['trim', 'paddingStart', 'paddingEnd'] as const;

export async function filmCommand(
  file: string,
  outputPath: string,
  options: FilmOptions,
  output: Output,
): Promise<number> {
  const { film, flags, asJson } = options;
  if (existsSync(outputPath)) throw new AppError('file-exists', { fileName: outputPath });
  if (TAG_FLAGS.some((name) => flags.text(name) !== null) || flags.isOn('loudness-tags')) {
    throw new AppError('usage', { reason: messages.keepsItsTags });
  }
  const temporaryPath = `${outputPath}.${process.pid}.part`;
  await checkWritable(temporaryPath, outputPath);
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    const programmes: FilmProgramme[] = [];
    for (const tracks of options.programmes) {
      programmes.push(await masterProgramme(file, outputPath, tracks ?? [1], folder, options, output));
    }
    const written = await writeFilm(
      {
        filmPath: file,
        temporaryPath,
        format: film,
        sounds: programmes.map(({ sound }) => sound),
        fileName: outputPath,
        durationSeconds: Math.max(...programmes.map(({ result }) => result.mastered.after.format.durationSeconds)),
      },
      async (read) => {
        for (const own of programmes) {
          if (own.sound === read.sound) own.report = await reportOf(own.result, read, { ...options, temporaryPath });
        }
      },
    );
    await placeFile(temporaryPath, outputPath, outputPath);
    const sha256 = options.hash ? await hashFile(outputPath) : null;
    return print({ file, outputPath, sha256 }, programmes, written, asJson, output);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

/** What was measured of the very samples, or is of those that a coder has made of them. */
async function reportOf(
  { mastered: { after } }: MasteredFile,
  { decodedPath, origin, isAsMeasured }: ReadSound,
  { temporaryPath, layoutId }: Pick<FilmOptions, 'layoutId'> & { temporaryPath: string },
): Promise<FileReport> {
  if (isAsMeasured) return reportInFilm(after, origin);
  const header = await peekHeader(decodedPath, temporaryPath);
  return (await measureAudio({ file: temporaryPath, path: decodedPath, header, origin }, { layoutId })).report;
}

/** Before hours of work: that a file can be written there. */
async function checkWritable(temporaryPath: string, fileName: string): Promise<void> {
  try {
    await writeFile(temporaryPath, '', { flag: 'wx' });
    await rm(temporaryPath);
  } catch (error) {
    throw fileError(error, fileName, 'not-writable');
  }
}

async function masterProgramme(
  file: string,
  outputPath: string,
  tracks: readonly number[],
  folder: string,
  { film, flags, asJson, layoutId }: FilmOptions,
  output: Output,
): Promise<FilmProgramme> {
  const { format: source } = await probeTracks(file, file, tracks);
  if (source.container !== film.container) {
    const extension = parse(file).ext.slice(1) || film.extensions[0];
    throw new AppError('film-kind-differs', { fileName: file, is: source.container, extension });
  }
  const codec = chosenCodec(flags, film, source, tracks.length);
  const kind = fileKindOfCodec(codec);
  const name = `${parse(outputPath).name}.${trackListText(tracks)}.${FILE_FORMATS[kind].extensions[0]}`;
  const wanted = (facts: SourceFacts) => {
    const asked = masterOptions(flags, facts, name);
    if (LENGTH_STEPS.some((step) => asked.treatment[step]))
      throw new AppError('usage', { reason: messages.keepsItsLength });
    if (tracks.length > 1 && (asked.treatment.mix !== 'stereo' || asked.treatment.downmix)) {
      throw new AppError('usage', { reason: messages.keepsItsTracks(trackListText(tracks)) });
    }
    return { ...asked, format: likeTrack(asked.format, source) };
  };
  const onStart = (before: FileReport, options: MasterOptions) => {
    if (asJson) return SILENT;
    output.print(messages.programme(trackListText(tracks), filmCodecName(codec)));
    return printing(output, before, options);
  };
  const result = await masterFile(file, join(folder, name), onStart, { wanted, tracks, layoutId });
  const [soundPath = ''] = result.paths;
  const sound = { tracks, soundPath, bitDepth: kind === 'wav' ? result.mastered.format.bitDepth : null };
  return { tracks, codec, result, sound };
}

/** What is asked for, or what the track came with; tracks that are put together go back channel by channel, as PCM. */
function chosenCodec(flags: Flags, film: FilmFormat, source: AudioFormat, tracks: number): FilmCodec {
  const asked = flags.choice('codec', FILM_CODECS, null);
  const codec = asked ?? filmCodecFor(film, source.codec);
  if (!film.codecs.includes(codec)) {
    throw new AppError('usage', {
      reason: messages.notInFilm(filmCodecName(codec), film.extensions[0], film.codecs.join(', ')),
    });
  }
  if (tracks > 1 && codec !== 'pcm') throw new AppError('usage', { reason: messages.togetherAsPcm });
  return codec;
}

/** What its spec says of a programme, as it was read from the film. */
function verdictOf({ result, report }: FilmProgramme): Verdict {
  const { mastered, source, wanted } = result;
  const { after, format, treatment, expectedFrames } = mastered;
  const made = { format, treatment, source, expectedFrames };
  // What a coder has put around it is in the film; its length is that of its sound.
  const { length } = writtenFacts(after, made);
  return assess(wanted.spec, { ...writtenFacts(report ?? after, made), length });
}

function print(
  { file, outputPath, sha256 }: { file: string; outputPath: string; sha256: string | null },
  programmes: readonly FilmProgramme[],
  { copiedStreams, movedSeconds }: WrittenFilm,
  asJson: boolean,
  output: Output,
): number {
  const judged = programmes.map((own, i) => ({ ...own, movedSeconds: movedSeconds[i] ?? 0, verdict: verdictOf(own) }));
  if (asJson) {
    const listed = judged.map(({ tracks, codec, result, report, movedSeconds, verdict }) => ({
      tracks,
      codec,
      movedMs: Math.round(1e6 * movedSeconds) / 1e3,
      ...outcomeJson(result, report),
      findings: findingsOf(result.before),
      verdict,
    }));
    const hashed = sha256 === null ? {} : { sha256 };
    output.print(json({ file: outputPath, ...hashed, source: file, copiedStreams, programmes: listed }));
  } else {
    output.print(`${file} → ${outputPath}`);
    output.print(messages.copied(copiedStreams));
    for (const { tracks, result, report, verdict, movedSeconds } of judged) {
      output.print(messages.measuredAgain(trackListText(tracks), outcomeText(result.mastered)));
      for (const line of outcomeLines(result, report ?? result.mastered.after, verdict)) output.print(line);
      if (movedSeconds !== 0) output.print(messages.moved(1000 * movedSeconds));
    }
  }
  return judged.every(({ verdict }) => verdict.inside) ? EXIT.ok : EXIT.misses;
}
