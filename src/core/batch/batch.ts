import * as z from 'zod';
import { deliveryFormatSchema } from '../delivery/format';
import { tagsSchema } from '../file-formats/tags';
import { readingOldNames } from '../schema/old-names';
import { someOf } from '../schema/some-of';
import { MOST_REDUCTION_DB } from '../treatment/limited-solver';
import { OLD_STEP_NAMES, STEP_NAMES, treatmentFields } from '../treatment/treatment';

const specId = z.string().min(1).max(64);
/** What a limiter may take; 0 for gain alone. */
const maxReductionDb = z.number().min(0).max(MOST_REDUCTION_DB).default(0);
/** What a spec asks of head and tail is added as room tone, and what is too long is cut. */
const fitsEdges = z.boolean().default(false);

/** What can be asked of many programmes at once, each by itself. */
export const batchWish = z.discriminatedUnion('kind', [
  /** Sets gain, limiter and edges so that a spec is met. */
  z.object({ kind: z.literal('meet'), specId, maxReductionDb, fitsEdges }),
  /** Writes a file that meets a spec; of a format that the spec takes, where none is stated. */
  z.object({
    kind: z.literal('deliver'),
    specId,
    format: deliveryFormatSchema.nullable().default(null),
    maxReductionDb,
    fitsEdges,
    /** The book that they are chapters of: it gives them the tags that they have not; null of all else. */
    bookId: z.string().min(1).max(64).nullable().default(null),
  }),
  /** Writes files anew that miss their specs where gain or limiter may mend that, their levels worked out from what came of them. */
  z.object({ kind: z.literal('solve-again') }),
  /** Writes a review copy: a small file that meets the target as far as the limiter may go, and says that it is no delivery. */
  z.object({ kind: z.literal('review'), specId, maxReductionDb }),
  /** Applies a template: its steps, its rows on the sheet, and its names. */
  z.object({ kind: z.literal('template'), templateId: z.string().min(1).max(64) }),
  /** Sets single steps of the treatment; what is left out stays. */
  z.object({ kind: z.literal('treatment'), change: readingOldNames(someOf(treatmentFields), OLD_STEP_NAMES) }),
  /** Sets steps as another programme has them; lengths keep their time, and the others stay. */
  z.object({
    kind: z.literal('steps'),
    fromId: z.string().min(1).max(64),
    steps: z.array(z.enum(STEP_NAMES)).min(1),
  }),
  /** Sets tags; what is left out stays. */
  z.object({
    kind: z.literal('tags'),
    tags: z.object({
      artist: tagsSchema.shape.artist.removeDefault().exactOptional(),
      album: tagsSchema.shape.album.removeDefault().exactOptional(),
      year: tagsSchema.shape.year.removeDefault().exactOptional(),
      genre: tagsSchema.shape.genre.removeDefault().exactOptional(),
      comment: tagsSchema.shape.comment.removeDefault().exactOptional(),
    }),
  }),
]);
export type BatchWish = z.infer<typeof batchWish>;
export type BatchWishInput = z.input<typeof batchWish>;

/** `missed`: a spec is not met, and no gain mends that. `failed`: it could not be done. */
export const BATCH_ITEM_STATES = ['waiting', 'done', 'missed', 'failed'] as const;

/** What has come of a batch for one programme. */
export interface BatchItem {
  programmeId: string;
  state: (typeof BATCH_ITEM_STATES)[number];
  /** What was done, or why it was not; empty while it waits. */
  text: string;
  /** The row of the sheet that it is written for; null where nothing is written. */
  rowId: string | null;
  /** A review copy; null of all else. */
  file: BatchFile | null;
}

export interface BatchFile {
  fileName: string;
  sizeBytes: number;
  sha256: string;
}
