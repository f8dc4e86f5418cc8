/** Chapters of a book, and its sample: what is asked of each, and how it is written. */
import { rm, stat } from 'node:fs/promises';
import { basename, extname, join, resolve } from 'node:path';
import { writtenFacts } from '@/core/delivery/facts';
import { describeFormat } from '@/core/delivery/format';
import { missingEdges, withRowEdges } from '@/core/delivery/row-edges';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import type { Tags } from '@/core/file-formats/tags';
import { chapterNames, chapterTags, chapterTitles, sampleName } from '@/core/lineup/book';
import { missedOf } from '@/core/spec/assessment';
import type { Spec } from '@/core/spec/spec';
import { type Treatment, treatmentSchema } from '@/core/treatment/treatment';
import type { AudioFormat } from '@/formats/audio-format';
import type { AssembledFile, TrackFile } from '@/workers/node/assembly-order';
import { hashFile } from '@/workers/node/hash-file';
import type { BookJob } from './book-schema';
import { type MasteredFile, masterFile, SILENT, verdictOf } from './master-command';
import type { MasterOptions } from './master-options';
import type { MeasuringOptions } from './measuring';
import { booksMessages as messages } from './messages';
import { plannedMaster } from './planned-master';

/** A chapter, or the sample, as it was written. */
export interface WrittenChapter {
  title: string;
  file: AssembledFile & TrackFile;
  treatment: Treatment;
  formatText: string;
  /** What keeps it from its spec; empty where nothing does. */
  missed: string;
}

export interface ChapterOrder {
  title: string;
  path: string;
  /** Without its extension. */
  stem: string;
  /** Counted from 1; null of the sample. */
  track: number | null;
  treatment: Treatment;
  /** In seconds of the source; null for all of it. */
  span: { startSeconds: number; seconds: number } | null;
  tags: Tags;
}

export function chapterOrders(book: BookJob, jobFolder: string): ChapterOrder[] {
  const own = book.chapters.map(({ file, title, tags }) => tags.title || (title ?? basename(file, extname(file))));
  const titles = chapterTitles(book, own);
  const said = { title: book.name, author: book.author, chapters: titles.length };
  const stems = chapterNames(book, said, own);
  return book.chapters.map(({ file, treatment, tags }, i) => {
    const title = titles[i] ?? '';
    return {
      title,
      path: resolve(jobFolder, file),
      stem: stems[i] ?? '',
      track: i + 1,
      treatment: treatmentSchema.parse({ gainDb: 0, ...treatment }),
      span: null,
      tags: chapterTags(tags, said, { place: i + 1, title }),
    };
  });
}

export function sampleOrder(book: BookJob, jobFolder: string): ChapterOrder | undefined {
  const { sample, name } = book;
  const chapter = sample && chapterOrders(book, jobFolder)[sample.chapter - 1];
  if (!sample || !chapter) return undefined;
  const title = sampleName(name);
  return { ...chapter, stem: title, track: null, span: sample, tags: { ...chapter.tags, title, track: '', isrc: '' } };
}

/** Masters a chapter to its spec; a second time with other edges, where those are what it misses. */
export async function writeChapter(
  { title, path, stem, track, treatment, span, tags }: ChapterOrder,
  { format, maxReductionDb, fitsEdges }: BookJob,
  { spec, cover }: { spec: Spec; cover: MasterOptions['cover'] },
  folder: string,
  options: MeasuringOptions,
): Promise<WrittenChapter> {
  const levelMode = { kind: 'solved', maxReductionDb, marginDb: 0 } as const;
  const asked = { spec, format, levelMode, tags, cover };
  const { source } = await plannedMaster(path, { ...asked, treatment }, { layoutId: options.layoutId });
  let steps: Treatment = span ? { ...treatment, trim: trimOf(span, source, title) } : treatment;
  const fileName = `${stem}.${FILE_FORMATS[format.kind].extensions[0]}`;
  const outputPath = join(folder, fileName);
  const master = async () => {
    const { wanted } = await plannedMaster(path, { ...asked, treatment: steps }, { layoutId: options.layoutId });
    return masterFile(path, outputPath, () => SILENT, { ...options, wanted: () => wanted });
  };
  let result = await master();
  const edges = fitsEdges ? edgesFor(result, spec, steps) : undefined;
  if (edges) {
    await rm(outputPath);
    steps = withRowEdges(steps, edges);
    result = await master();
  }
  const { after, treatment: written, format: resolved } = result.mastered;
  const { size: sizeBytes } = await stat(outputPath);
  const missed = missedOf(verdictOf(result, spec));
  return {
    title,
    treatment: written,
    formatText: describeFormat(resolved),
    file: {
      fileName,
      role: track === null ? 'sample' : 'audio',
      track,
      sizeBytes,
      sha256: await hashFile(outputPath),
      readings: after.readings,
    },
    missed: missed.map(({ phrase }) => phrase).join('; '),
  };
}

function trimOf({ startSeconds, seconds }: NonNullable<ChapterOrder['span']>, source: AudioFormat, title: string) {
  const startFrame = Math.round(startSeconds * source.sampleRateHz);
  const endFrame = startFrame + Math.round(seconds * source.sampleRateHz);
  if (endFrame > source.frames) throw new AppError('sample-misses', { title, reason: messages.beyondTheEnd });
  return { startFrame, endFrame };
}

/** The edges that a chapter's spec asks for and its written file has not; undefined where all is there. */
function edgesFor({ mastered, source }: MasteredFile, spec: Spec, steps: Treatment) {
  const { after, format, treatment, expectedFrames } = mastered;
  const { edges, readings } = writtenFacts(after, { format, treatment, source, expectedFrames });
  const sampleRateHz = steps.resampleHz ?? source.sampleRateHz;
  return missingEdges(spec, { edges, readings, sampleRateHz }, steps, source, { cutsLong: true });
}
