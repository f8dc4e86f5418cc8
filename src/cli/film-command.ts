/** `opsimeter master` of a film: its sound is mastered and put back, and everything else is copied. */
import { existsSync } from 'node:fs';
import { mkdtemp, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import type { FilmCodec } from '@/core/film/film-formats';
import { trackListText } from '@/core/film/track-lists';
import { findingsOf } from '@/core/findings/findings';
import { fileError } from '@/workers/node/file-bytes';
import { type WrittenFilm, writeFilm } from '@/workers/node/film-file';
import { hashFile } from '@/workers/node/hash-file';
import { placeFile } from '@/workers/node/place-file';
import type { Audio } from './audio';
import { complaint, EXIT, json, type Output } from './commands';
import { type FilmPart, filmParts } from './film-parts';
import {
  codecFor,
  type FilmOptions,
  type FilmProgramme,
  masterProgramme,
  type Opened,
  reportOf,
  verdictOf,
} from './film-programmes';
import { checkIsFree, outcomeJson, outcomeLines, outcomeText } from './master-command';
import { spanPath } from './master-spans';
import { withAudio } from './measuring';
import { filmCommandMessages as messages, filmPartMessages as partMessages } from './messages';

const TAG_FLAGS = ['title', 'artist', 'album', 'track', 'year', 'genre', 'comment', 'isrc', 'cover'] as const;

export async function filmCommand(
  file: string,
  outputPath: string,
  options: FilmOptions,
  output: Output,
): Promise<number> {
  const { flags, asJson } = options;
  if (existsSync(outputPath)) throw new AppError('file-exists', { fileName: outputPath });
  if (TAG_FLAGS.some((name) => flags.text(name) !== null) || flags.isOn('loudness-tags')) {
    throw new AppError('usage', { reason: messages.keepsItsTags });
  }
  await checkWritable(`${outputPath}.${process.pid}.part`, outputPath);
  const lists = options.programmes.map((tracks) => tracks ?? [1]);
  const codecs: FilmCodec[] = [];
  for (const tracks of lists) codecs.push(await codecFor(file, tracks, options));
  return withProgrammes(file, lists, async (audios) => {
    const parts = await filmParts(file, lists, audios, options, output);
    const programmes = lists.map((tracks, i) => ({ tracks, codec: codecs[i] as FilmCodec, audio: audios[i] as Audio }));
    if (!parts) {
      const written = await write(file, outputPath, programmes, undefined, options, output);
      if (asJson) output.print(json(written.said));
      return written.isInside ? EXIT.ok : EXIT.misses;
    }
    const paths = parts.map(({ span }, i) =>
      options.spans === undefined ? outputPath : spanPath(outputPath, i + 1, span),
    );
    for (const path of paths) checkIsFree(path);
    return eachSpan(parts, options, output, (part, i) =>
      write(file, paths[i] as string, programmes, part, options, output),
    );
  });
}

/** Writes each part; one that cannot be written costs none of the others. */
async function eachSpan(
  parts: readonly FilmPart[],
  { spans, asJson }: FilmOptions,
  output: Output,
  writePart: (part: FilmPart, i: number) => Promise<Written>,
): Promise<number> {
  const all: object[] = [];
  let [missed, failed] = [0, 0];
  for (const [i, part] of parts.entries()) {
    try {
      const { said, isInside } = await writePart(part, i);
      if (!isInside) missed++;
      all.push(said);
    } catch (error) {
      if (spans === undefined) throw error;
      failed++;
      output.complain(complaint(error));
      all.push({ span: part.span, error: complaint(error) });
    }
  }
  if (asJson) output.print(json(spans === undefined ? all[0] : all));
  if (failed > 0) return EXIT.unusable;
  return missed > 0 ? EXIT.misses : EXIT.ok;
}

/** Every programme of a film, decoded once for all that is written of it. */
function withProgrammes<T>(
  file: string,
  lists: readonly (readonly number[])[],
  use: (audios: readonly Audio[]) => Promise<T>,
  opened: readonly Audio[] = [],
): Promise<T> {
  const tracks = lists[opened.length];
  if (tracks === undefined) return use(opened);
  return withAudio(file, (audio) => withProgrammes(file, lists, use, [...opened, audio]), { tracks });
}

/** Writes a film, or a part of it. */
async function write(
  file: string,
  outputPath: string,
  opened: readonly Opened[],
  part: FilmPart | undefined,
  options: FilmOptions,
  output: Output,
): Promise<Written> {
  const temporaryPath = `${outputPath}.${process.pid}.part`;
  const folder = await mkdtemp(join(tmpdir(), 'opsimeter-'));
  try {
    const programmes: FilmProgramme[] = [];
    for (const [i, own] of opened.entries()) {
      programmes.push(await masterProgramme(own, part?.trims[i], outputPath, folder, options, output));
    }
    const written = await writeFilm(
      {
        filmPath: file,
        temporaryPath,
        format: options.film,
        sounds: programmes.map(({ sound }) => sound),
        ...(part ? { cut: part.cut } : {}),
        fileName: outputPath,
        durationSeconds: Math.max(...opened.map(({ audio }) => audio.header.format.durationSeconds)),
      },
      async (read) => {
        for (const own of programmes) {
          if (own.sound === read.sound) own.report = await reportOf(own.result, read, { ...options, temporaryPath });
        }
      },
    );
    await placeFile(temporaryPath, outputPath, outputPath);
    const sha256 = options.hash ? await hashFile(outputPath) : null;
    return tell({ file, outputPath, sha256, part }, programmes, written, options.asJson, output);
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
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

/** What is said of a film that was written. */
interface Written {
  said: object;
  isInside: boolean;
}

function tell(
  {
    file,
    outputPath,
    sha256,
    part,
  }: { file: string; outputPath: string; sha256: string | null; part?: FilmPart | undefined },
  programmes: readonly FilmProgramme[],
  { copiedStreams, movedSeconds }: WrittenFilm,
  asJson: boolean,
  output: Output,
): Written {
  const judged = programmes.map((own, i) => ({ ...own, movedSeconds: movedSeconds[i] ?? 0, verdict: verdictOf(own) }));
  const isInside = judged.every(({ verdict }) => verdict.inside);
  const isRecoded = part !== undefined && part.cut.recodedPictures !== null;
  if (!asJson) {
    output.print(`${file} → ${outputPath}`);
    if (part) output.print(partMessages.cut(part.edges, isRecoded));
    output.print(messages.copied(copiedStreams));
    for (const { tracks, result, report, verdict, movedSeconds } of judged) {
      output.print(messages.measuredAgain(trackListText(tracks), outcomeText(result.mastered)));
      for (const line of outcomeLines(result, report ?? result.mastered.after, verdict)) output.print(line);
      if (movedSeconds !== 0) output.print(messages.moved(1000 * movedSeconds));
    }
  }
  const listed = judged.map(({ tracks, codec, result, report, movedSeconds, verdict }) => ({
    tracks,
    codec,
    movedMs: Math.round(1e6 * movedSeconds) / 1e3,
    ...outcomeJson(result, report),
    findings: findingsOf(result.before),
    verdict,
  }));
  const hashed = sha256 === null ? {} : { sha256 };
  const cut = part && { span: part.span, cut: { ...part.trims[0], edges: part.edges, isRecoded } };
  return { said: { file: outputPath, ...hashed, source: file, ...cut, copiedStreams, programmes: listed }, isInside };
}
