import { AppError } from '@/core/errors/app-error';
import { chapterNames, sampleName } from '@/core/lineup/book';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import { viewSheet } from '../deliveries/sheet';
import type { DeliveryView } from '../jobs/delivery-view';
import { specInUse } from '../jobs/jobs';
import { programmesWhere } from '../jobs/programme-view';
import { type LineUpView, lineUpOf } from '../line-ups/line-ups';

/** A chapter of a book, and what its file will be called. */
interface ChapterView {
  programmeId: string;
  title: string;
  fileName: string;
  /** There is a verified file of it, written with its current settings. */
  isDelivered: boolean;
}

/** The folder of a book, before it is written. */
export interface BookPreview {
  chapters: ChapterView[];
  /** Without its extension; null where none is asked for. */
  sampleName: string | null;
}

/** What a book's folder would hold. Throws `not-found` or `unknown-spec`. */
export function previewBook(server: ServerContext, lineUpId: string, specId?: string): BookPreview {
  const lineUp = lineUpOf(server, lineUpId);
  const spec = specInUse(server, lineUp.jobId, specId ?? lineUp.specId);
  const chapters = chaptersOf(server, lineUp, spec.id);
  const names = namesOf(
    lineUp,
    chapters.map(({ title }) => title),
  );
  const extension = extensionOf(chapters.find(({ delivery }) => delivery)?.delivery?.fileName ?? '');
  return {
    chapters: chapters.map(({ programmeId, title, delivery }, i) => ({
      programmeId,
      title,
      fileName: `${names[i]}${extensionOf(delivery?.fileName ?? '') || extension}`,
      isDelivered: delivery !== undefined,
    })),
    sampleName: lineUp.record.book.sample ? sampleName(lineUp.name) : null,
  };
}

/**
 * The verified file of every chapter, by programme.
 *
 * @throws AppError `chapters-not-delivered`, or `chapters-not-alike` where they differ in their format
 */
export function deliveredChapters(
  server: ServerContext,
  lineUp: LineUpView,
  specId: string,
): ReadonlyMap<string, DeliveryView> {
  const chapters = chaptersOf(server, lineUp, specId);
  const missing = chapters.filter(({ delivery }) => !delivery);
  if (missing.length > 0) {
    const titles = missing.map(({ title }) => title).join(', ');
    throw new AppError('chapters-not-delivered', { chapters: missing.length, titles });
  }
  const [first] = chapters;
  const odd = chapters.find(({ formatText }) => formatText !== first?.formatText);
  if (first && odd) {
    throw new AppError('chapters-not-alike', {
      title: first.title,
      format: first.formatText,
      other: odd.title,
      otherFormat: odd.formatText,
    });
  }
  return new Map(chapters.flatMap(({ programmeId, delivery }) => (delivery ? [[programmeId, delivery]] : [])));
}

/** What the files of a book are called, without their extensions. */
export function namesOf(
  { name, record }: Pick<LineUpView, 'name' | 'record'>,
  titles: readonly string[],
): readonly string[] {
  return chapterNames(record.book, { title: name, author: record.artist }, titles);
}

/** Such as `.mp3`. */
export function extensionOf(fileName: string): string {
  const at = fileName.lastIndexOf('.');
  return at < 0 ? '' : fileName.slice(at);
}

function chaptersOf(server: ServerContext, { jobId, members }: LineUpView, specId: string) {
  const { rows } = viewSheet(server, jobId);
  const ids = members.map(({ programmeId }) => programmeId);
  const titles = new Map(
    programmesWhere(server, among(programmes.id, ids)).map(({ programmes: { id, title } }) => [id, title]),
  );
  return members.map(({ programmeId }) => {
    const row = rows.find(
      ({ spec, trim, prediction, isStale, delivery, ...own }) =>
        own.programmeId === programmeId &&
        spec.id === specId &&
        trim === null &&
        // What is not known to be as it was written may be another.
        prediction !== null &&
        !isStale &&
        delivery?.files.length === 1 &&
        delivery.written?.verdict.inside === true,
    );
    const title = titles.get(programmeId) ?? '';
    return { programmeId, title, delivery: row?.delivery ?? undefined, formatText: row?.formatText ?? '' };
  });
}
