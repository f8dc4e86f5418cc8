/** The programmes of a film: mastered, and read again from the film that was written. */
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
import { assess } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import type { AudioFormat } from '@/formats/audio-format';
import { type FilmSound, type ReadSound, reportInFilm } from '@/workers/node/film-file';
import { peekHeader } from '@/workers/node/measure-file';
import type { FileReport } from '@/workers/protocol';
import type { Audio } from './audio';
import type { Output } from './commands';
import type { FilmPart } from './film-parts';
import type { Flags } from './flags';
import { type MasteredFile, masterAudio, printing, SILENT } from './master-command';
import { type MasterOptions, masterOptions, type SourceFacts } from './master-options';
import { measureAudio } from './measuring';
import { filmCommandMessages as messages } from './messages';

/** How a film is mastered. */
export interface FilmOptions {
  film: FilmFormat;
  flags: Flags;
  /** The tracks of each programme; the first of the film where none are stated. */
  programmes: readonly (readonly number[] | undefined)[];
  asJson: boolean;
  /** A list of the parts that are written, each as a film of its own. */
  spans?: string | undefined;
  /** A layout chosen by hand. */
  layoutId?: string | undefined;
  /** Hash the film that is written as well. */
  hash?: boolean | undefined;
}

/** A programme of the film, decoded. */
export interface Opened {
  tracks: readonly number[];
  codec: FilmCodec;
  audio: Audio;
}

/** One programme of a film: mastered, and read again from the film that was written. */
export interface FilmProgramme {
  tracks: readonly number[];
  codec: FilmCodec;
  result: MasteredFile;
  sound: FilmSound;
  /** Of the film that was written. */
  report?: FileReport;
}

const LENGTH_STEPS = ['paddingStart', 'paddingEnd'] as const;

/** What a programme goes back as. Throws `usage`, or `film-kind-differs`. */
export async function codecFor(
  file: string,
  tracks: readonly number[],
  { film, flags }: FilmOptions,
): Promise<FilmCodec> {
  const { format: source } = await probeTracks(file, file, tracks);
  if (source.container !== film.container) {
    const extension = parse(file).ext.slice(1) || film.extensions[0];
    throw new AppError('film-kind-differs', { fileName: file, is: source.container, extension });
  }
  return chosenCodec(flags, film, source, tracks.length);
}

export async function masterProgramme(
  { tracks, codec, audio }: Opened,
  trim: FilmPart['trims'][number] | undefined,
  outputPath: string,
  folder: string,
  { flags, asJson, layoutId }: FilmOptions,
  output: Output,
): Promise<FilmProgramme> {
  const source = audio.origin ?? audio.header.format;
  const kind = fileKindOfCodec(codec);
  const name = `${parse(outputPath).name}.${trackListText(tracks)}.${FILE_FORMATS[kind].extensions[0]}`;
  const wanted = (facts: SourceFacts) => {
    const asked = masterOptions(flags, facts, name);
    if (LENGTH_STEPS.some((step) => asked.treatment[step]))
      throw new AppError('usage', { reason: messages.keepsItsLength });
    if (tracks.length > 1 && (asked.treatment.mix !== 'stereo' || asked.treatment.downmix)) {
      throw new AppError('usage', { reason: messages.keepsItsTracks(trackListText(tracks)) });
    }
    const treatment = { ...asked.treatment, trim: trim ?? null };
    return { ...asked, treatment, format: likeTrack(asked.format, source) };
  };
  const onStart = (before: FileReport, options: MasterOptions) => {
    if (asJson) return SILENT;
    output.print(messages.programme(trackListText(tracks), filmCodecName(codec)));
    return printing(output, before, options);
  };
  const result = await masterAudio(audio, join(folder, name), onStart, { wanted, tracks, layoutId });
  const [soundPath = ''] = result.paths;
  const bitDepth = kind === 'wav' ? result.mastered.format.bitDepth : null;
  const fromSeconds = (trim?.startFrame ?? 0) / audio.header.format.sampleRateHz;
  const sound = { tracks, soundPath, bitDepth, fromSeconds };
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
export function verdictOf({ result, report }: FilmProgramme): Verdict {
  const { mastered, source, wanted } = result;
  const { after, format, treatment, expectedFrames } = mastered;
  const made = { format, treatment, source, expectedFrames };
  // What a coder has put around it is in the film; its length is that of its sound.
  const { length } = writtenFacts(after, made);
  return assess(wanted.spec, { ...writtenFacts(report ?? after, made), length });
}

/** What was measured of the very samples, or is of those that a coder has made of them. */
export async function reportOf(
  { mastered: { after } }: MasteredFile,
  { decodedPath, origin, isAsMeasured }: ReadSound,
  { temporaryPath, layoutId }: Pick<FilmOptions, 'layoutId'> & { temporaryPath: string },
): Promise<FileReport> {
  if (isAsMeasured) return reportInFilm(after, origin);
  const header = await peekHeader(decodedPath, temporaryPath);
  return (await measureAudio({ file: temporaryPath, path: decodedPath, header, origin }, { layoutId })).report;
}
