/** Parts of a film, picture and all: where they are cut, and what of each programme is in them. */
import { cutAtKeyFrames, cutAtPictures, type FilmCut } from '@/codecs/film-cut';
import { startsOf } from '@/codecs/put-back';
import { AppError } from '@/core/errors/app-error';
import type { Trim } from '@/core/treatment/steps/trim';
import { formatTime } from '@/core/units/format';
import { timeCodeAt } from '@/core/units/time-code';
import type { NamedSpan } from '@/formats/span-list';
import { readFileMetadata } from '@/workers/node/file-metadata';
import type { Audio } from './audio';
import type { Output } from './commands';
import type { Flags } from './flags';
import { filmPartMessages as messages, spansMessages } from './messages';
import { spansOf } from './spans';

/** Of a film: the part that is written, and of each programme what is heard in it. */
export interface FilmPart {
  cut: FilmCut;
  /** As it is asked for, in frames of the first programme. */
  span: NamedSpan;
  /** One for each programme, in frames of its own. */
  trims: (Trim & { endFrame: number })[];
  /** From when to when, as a person reads it: in time code where the film has one. */
  edges: [string, string];
}

interface AskedParts {
  flags: Flags;
  /** A list of spans. */
  spans?: string | undefined;
}

/**
 * The parts of a film that are asked for, by a list or by a start and an end; undefined where all of it is.
 *
 * @param audios the programmes, decoded, in the order of `tracks`
 * @throws AppError `usage`, `film-not-cut`
 */
export async function filmParts(
  file: string,
  tracks: readonly (readonly number[])[],
  audios: readonly Audio[],
  { flags, spans: listPath }: AskedParts,
  output: Output,
): Promise<FilmPart[] | undefined> {
  const [first] = audios as [Audio, ...Audio[]];
  const isRecoded = flags.isOn('recode-picture');
  const asked = askedSpan(flags, first);
  if (listPath === undefined) {
    if (!asked && isRecoded) throw new AppError('usage', { reason: messages.nothingIsCut });
    return asked && [await partOf(file, tracks, audios, asked, isRecoded)];
  }
  if (asked) throw new AppError('usage', { reason: spansMessages.withoutTrim });
  const onUnread = ({ line, why, text }: Parameters<Parameters<typeof spansOf>[2]>[0]) =>
    output.complain(spansMessages.unread(listPath, line, why, text));
  const parts: FilmPart[] = [];
  for (const span of await spansOf(first, listPath, onUnread)) {
    parts.push(await partOf(file, tracks, audios, span, isRecoded));
  }
  return parts;
}

function askedSpan(flags: Flags, { header }: Audio): NamedSpan | undefined {
  const { sampleRateHz, frames } = header.format;
  const [start, end] = [flags.frames('start', sampleRateHz), flags.frames('end', sampleRateHz)];
  if (start === null && end === null) return undefined;
  const [startFrame, endFrame] = [start ?? 0, Math.min(end ?? frames, frames)];
  if (endFrame <= startFrame) throw new AppError('usage', { reason: messages.nothingIsLeft });
  return { name: '', startFrame, endFrame };
}

async function partOf(
  file: string,
  tracks: readonly (readonly number[])[],
  audios: readonly Audio[],
  span: NamedSpan,
  isRecoded: boolean,
): Promise<FilmPart> {
  const begins: number[] = [];
  for (const own of tracks) begins.push((await startsOf(file, file, own)).soundSeconds);
  const [first] = audios as [Audio, ...Audio[]];
  const at = (frame: number) => (begins[0] ?? 0) + frame / first.header.format.sampleRateHz;
  const wanted = { startSeconds: at(span.startFrame), endSeconds: at(span.endFrame) };
  const cut = await (isRecoded ? cutAtPictures : cutAtKeyFrames)(file, file, wanted);
  const trims = audios.map(({ header: { format } }, i) => {
    const frameAt = (seconds: number) => Math.round((seconds - (begins[i] ?? 0)) * format.sampleRateHz);
    const startFrame = Math.max(0, frameAt(cut.startSeconds));
    const endFrame = Math.min(format.frames, frameAt(cut.endSeconds));
    if (endFrame <= startFrame) throw new AppError('film-not-cut', { fileName: file, reason: messages.noSoundThere });
    return { startFrame, endFrame };
  });
  return { cut, span, trims, edges: await edgesOf(first, trims[0] as FilmPart['trims'][number]) };
}

async function edgesOf(
  { file, header, origin }: Audio,
  { startFrame, endFrame }: FilmPart['trims'][number],
): Promise<[string, string]> {
  const { sampleRateHz } = header.format;
  const { timeCode } = await readFileMetadata(file, file, origin ?? header.format);
  const text = (frame: number) =>
    timeCode ? timeCodeAt(timeCode, frame, sampleRateHz) : formatTime(frame / sampleRateHz, { milliseconds: true });
  return [text(startFrame), text(endFrame)];
}
