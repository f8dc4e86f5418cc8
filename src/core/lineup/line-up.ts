import * as z from 'zod';
import { limitSchema } from '../treatment/steps/limit';
import { bookSettings, USUAL_BOOK } from './book';
import { readCatalogNumber } from './codes';
import { lineUpSchemaMessages as messages } from './messages';

/** What programmes are that belong together. */
export const LINE_UP_KINDS = ['record', 'book', 'stems', 'film', 'parts', 'versions', 'batch'] as const;
export type LineUpKind = (typeof LINE_UP_KINDS)[number];

/** More than lies between two programmes of anything that is played in order. */
export const MOST_GAP_SECONDS = 600;
export const MOST_MEMBERS = 2000;

/** A programme of a line-up, in its place. */
const memberSchema = z.object({
  programmeId: z.string().min(1).max(64),
  /** Silence until the next one begins; negative where that begins before this one has ended, in a crossfade. */
  gapSeconds: z.number().min(-MOST_GAP_SECONDS).max(MOST_GAP_SECONDS).default(0),
});
export type Member = z.infer<typeof memberSchema>;

const catalogNumberSchema = z.string().transform((text, context) => {
  if (text.trim() === '') return '';
  const read = readCatalogNumber(text);
  if ('number' in read) return read.number;
  const message = read.problem === 'length' ? messages.catalogLength : messages.catalogCheckDigit(read.expected);
  context.addIssue({ code: 'custom', message });
  return z.NEVER;
});

/** What holds for a record as a whole. */
export const recordSettings = z.object({
  artist: z.string().trim().max(120).default(''),
  /** EAN of 13 digits; empty where it has none. */
  catalogNumber: catalogNumberSchema.default(''),
  /** It is to go on a CD: what that asks is assessed. */
  isForCd: z.boolean().default(false),
  /** Silence that a CD has ahead of its first track; it is stated, and in no file. */
  pregapSeconds: z.number().min(0).max(60).default(2),
  /** One limiter over the whole, in place of each programme's own; null where each keeps its own. */
  limit: limitSchema.nullable().default(null),
  book: bookSettings.default(USUAL_BOOK),
});
export type RecordSettings = z.infer<typeof recordSettings>;
export const USUAL_RECORD: RecordSettings = recordSettings.parse({});

const fields = {
  kind: z.enum(LINE_UP_KINDS),
  name: z.string().trim().min(1).max(120),
  /** Null where it has none of its own. */
  specId: z.string().min(1).max(64).nullable(),
  record: recordSettings,
  /** Of stems: the programme that is their mix; null where its name tells. */
  mixId: z.string().min(1).max(64).nullable(),
  /** In order; each once. */
  members: z
    .array(memberSchema)
    .min(1)
    .max(MOST_MEMBERS)
    .refine(
      (members) => new Set(members.map(({ programmeId }) => programmeId)).size === members.length,
      messages.onceOnly,
    ),
};

/** A line-up, but for the job that it belongs to. */
export const lineUpFields = z.object({
  ...fields,
  specId: fields.specId.default(null),
  record: fields.record.default(USUAL_RECORD),
  mixId: fields.mixId.default(null),
});
export type LineUpFields = z.infer<typeof lineUpFields>;

/** A change of one: what is left out stays. */
export const lineUpChange = z.object(fields).partial();

/** How the levels of a line-up are set. */
export const BALANCES = ['whole-at-target', 'loudest-at-target', 'each-at-target'] as const;
export type Balance = (typeof BALANCES)[number];
