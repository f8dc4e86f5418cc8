/** What a job file says of a book. */
import * as z from 'zod';
import { deliveryFormatSchema } from '@/core/delivery/format';
import { NO_TAGS, tagsSchema } from '@/core/file-formats/tags';
import { bookSettings, LEAST_SAMPLE_SECONDS, MOST_SAMPLE_SECONDS } from '@/core/lineup/book';
import { MOST_MEMBERS } from '@/core/lineup/line-up';
import { readingOldNames } from '@/core/schema/old-names';
import { specSchema } from '@/core/spec/spec';
import { MOST_REDUCTION_DB } from '@/core/treatment/limited-solver';
import { OLD_STEP_NAMES, treatmentFields } from '@/core/treatment/treatment';

/** Files are named from where the job file lies. */
export const bookSchema = bookSettings.omit({ sample: true }).extend({
  /** The title of the book, and the name of its folder. */
  name: z.string().trim().min(1).max(120),
  author: z.string().trim().max(120).default(''),
  spec: z.union([z.string(), specSchema]),
  /** Of each chapter. */
  format: deliveryFormatSchema,
  /** Of the one file of them all. */
  whole: deliveryFormatSchema.default(deliveryFormatSchema.parse({ kind: 'm4a' })),
  maxReductionDb: z.number().min(0).max(MOST_REDUCTION_DB).default(6),
  /** Room tone is added where the spec asks for more, and what is too long is cut. */
  fitsEdges: z.boolean().default(true),
  cover: z.string().min(1).optional(),
  chapters: z
    .array(
      z.object({
        file: z.string().min(1),
        /** The file's name without its extension, unless it is said. */
        title: z.string().trim().min(1).max(200).optional(),
        treatment: readingOldNames(treatmentFields.partial(), OLD_STEP_NAMES).default({}),
        tags: tagsSchema.default(NO_TAGS),
      }),
    )
    .min(1)
    .max(MOST_MEMBERS),
  sample: z
    .object({
      /** Counted from 1. */
      chapter: z.int().min(1),
      startSeconds: z.number().min(0),
      seconds: z.number().min(LEAST_SAMPLE_SECONDS).max(MOST_SAMPLE_SECONDS),
    })
    .nullable()
    .default(null),
});
export type BookJob = z.infer<typeof bookSchema>;
