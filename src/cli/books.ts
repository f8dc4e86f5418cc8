/** Books of a job file: every chapter brought to its spec by itself, one file of them all, and a sample, in a folder of their own. */
import { existsSync } from 'node:fs';
import { basename, join, resolve } from 'node:path';
import { describeFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { planRecord } from '@/core/lineup/record';
import { plainName } from '@/core/lineup/track-name';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { levelVerdict } from '@/core/spec/assess';
import { specById } from '@/core/spec/catalogue';
import type { Spec } from '@/core/spec/spec';
import type { Treatment } from '@/core/treatment/treatment';
import type { Assembled } from '@/workers/node/assembly-order';
import { renderFile } from '@/workers/node/render-file';
import { writeAssembly } from '@/workers/node/write-assembly';
import type { Audio } from './audio';
import { type ChapterOrder, chapterOrders, sampleOrder, type WrittenChapter, writeChapter } from './book-chapters';
import type { BookJob } from './book-schema';
import { checkCover, coverAt } from './covers';
import type { MasterOptions } from './master-options';
import { type MeasuringOptions, withAudios } from './measuring';
import { booksMessages as messages } from './messages';
import { assemblySteps, intoFolder } from './written-folder';

export interface WrittenBook {
  folder: string;
  spec: Spec;
  /** What keeps chapters, or the sample, from their spec; nothing is written where there is any. */
  missed: { title: string; text: string }[];
  written: (Assembled & { formatText: string; wholeText: string }) | null;
}

function bookFolder({ name }: BookJob, outputFolder: string): string {
  return join(outputFolder, plainName(name));
}

/** Everything that would keep a book from being written; nothing where it can be. */
export async function checkBook(book: BookJob, jobFolder: string, outputFolder: string): Promise<void> {
  specOf(book);
  const folder = bookFolder(book, outputFolder);
  if (existsSync(folder)) throw new AppError('file-exists', { fileName: folder });
  if (book.cover) await checkCover(coverAt(resolve(jobFolder, book.cover)));
  for (const { file } of book.chapters)
    if (!existsSync(resolve(jobFolder, file))) throw new AppError('file-missing', { fileName: file });
  if (book.sample && book.sample.chapter > book.chapters.length) {
    throw new AppError('usage', { reason: messages.noChapter(book.sample.chapter, book.chapters.length) });
  }
}

/**
 * Writes a book. Its folder appears once every chapter passes and everything in it was read back; whatever goes wrong, nothing is left
 * of it.
 *
 * @throws AppError as `checkBook`, `plannedMaster` and `writeAssembly`
 */
export async function writeBook(
  book: BookJob,
  jobFolder: string,
  outputFolder: string,
  options: MeasuringOptions,
): Promise<WrittenBook> {
  await checkBook(book, jobFolder, outputFolder);
  const spec = specOf(book);
  const folder = bookFolder(book, outputFolder);
  const missed: WrittenBook['missed'] = [];
  try {
    const written = await intoFolder(folder, async (temporary) => {
      const chapters: WrittenChapter[] = [];
      const cover = book.cover === undefined ? null : coverAt(resolve(jobFolder, book.cover));
      const write = (order: ChapterOrder) => writeChapter(order, book, { spec, cover }, temporary, options);
      // Where the sample cannot be, nobody waits for the chapters to be told so.
      const sample = sampleOrder(book, jobFolder);
      const sampled = sample && (await write(sample));
      for (const order of chapterOrders(book, jobFolder)) chapters.push(await write(order));
      for (const { title, missed: text } of [...chapters, ...(sampled ? [sampled] : [])])
        if (text !== '') missed.push({ title, text });
      if (missed.length > 0) throw new Misses();
      return writeWhole({ book, jobFolder, spec, cover, chapters, sampled, temporary, options });
    });
    return { folder, spec, missed, written };
  } catch (error) {
    if (!(error instanceof Misses)) throw error;
    return { folder, spec, missed, written: null };
  }
}

/** Leaves no folder behind: some chapter misses. */
class Misses extends Error {}

/** One file of all chapters, as each was written, and the track sheet. */
function writeWhole({
  book,
  jobFolder,
  spec,
  cover,
  chapters,
  sampled,
  temporary,
  options,
}: {
  book: BookJob;
  jobFolder: string;
  spec: Spec;
  cover: MasterOptions['cover'];
  chapters: readonly WrittenChapter[];
  sampled: WrittenChapter | undefined;
  temporary: string;
  options: MeasuringOptions;
}): Promise<NonNullable<WrittenBook['written']>> {
  const files = book.chapters.map(({ file }) => resolve(jobFolder, file));
  return withAudios(files, async (audios) => {
    const members = chapters.map(({ title, treatment }, i) => {
      const { header } = audios[i] as Audio;
      return { title, treatment, gapSeconds: 0, source: header.format };
    });
    const { format, treatments, assembly } = planRecord(members, book.whole, null);
    const tracks = chapters.map(({ title }, i) => {
      const { artist, isrc } = book.chapters[i]?.tags ?? NO_TAGS;
      return { title, artist, isrc };
    });
    const assembled = await writeAssembly(
      {
        folder: temporary,
        stem: plainName(book.name),
        form: 'continuous',
        isBook: true,
        trackFiles: chapters.map(({ file }) => file),
        assembly,
        record: { title: book.name, artist: book.author, catalogNumber: '', pregapSeconds: 0, tracks },
        trackTags: [],
        format,
        spec,
        limit: null,
        cover,
        layoutId: writtenLayoutId(format.channels, options.layoutId ?? null),
      },
      {
        ...assemblySteps(options),
        renderMember: (i, outputPath, onProgress) => {
          const { path, file } = audios[i] as Audio;
          const layoutId = options.layoutId ?? null;
          const treatment = treatments[i] as Treatment;
          return renderFile(path, outputPath, {
            treatment,
            bitDepth: 32,
            layoutId,
            fileName: basename(file),
            onProgress,
          });
        },
      },
    );
    const own = [...chapters, ...(sampled ? [sampled] : [])].map(({ file: { readings: _, ...file } }) => file);
    return {
      ...assembled,
      files: [...own, ...assembled.files],
      verdict: levelVerdict(assembled.verdict),
      formatText: chapters[0]?.formatText ?? '',
      wholeText: describeFormat(format),
    };
  });
}

function specOf({ spec }: BookJob): Spec {
  return typeof spec === 'string' ? specById(spec) : spec;
}
