import * as z from 'zod';
import { type Cover, coverSchema } from '@/core/delivery/cover';
import { resolvedFormatSchema } from '@/core/delivery/format';
import { OLD_ROW_NAMES, setRowFields } from '@/core/delivery/row';
import { rowEdgesSchema } from '@/core/delivery/row-edges';
import { startTimeCodeSchema } from '@/core/delivery/start-time-code';
import { tagsSchema } from '@/core/file-formats/tags';
import { filmTracksSchema } from '@/core/film/film-tracks';
import { LINE_UP_KINDS, MOST_GAP_SECONDS, MOST_MEMBERS, recordSettings, USUAL_RECORD } from '@/core/lineup/line-up';
import { LAYOUT_IDS } from '@/core/loudness/channel-layout';
import { readingOldNames } from '@/core/schema/old-names';
import { specSchema } from '@/core/spec/spec';
import { gainDbSchema } from '@/core/treatment/steps/gain';
import { trimSchema } from '@/core/treatment/steps/trim';
import { treatmentSchema } from '@/core/treatment/treatment';
import { archivedPassSchema, arePasses } from '../outboard/archive-passes';
import { bytes, fileName, place, sha256, timeMs } from './archive-fields';
import { type WrittenRecord, writtenRecordSchema } from './archive-record';

const level = z.number().min(-1000).max(1000).nullable();
const passSchema = z.object({ gainDb: gainDbSchema, ceilingDbtp: level, loudness: level, peak: level });

/** What the rows of the sheet were called before they were rows. */
const OLD_PROGRAMME_NAMES = { lines: 'rows' } as const;
const OLD_DELIVERY_NAMES = { line: 'row' } as const;

/** `manifest.json` of a job's ZIP. A change that older readers would misread makes another version. */
export const manifestSchema = z
  .object({
    format: z.literal('opsimeter-job'),
    version: z.literal(1),
    engineVersion: z.string(),
    job: z.object({
      name: z.string().min(1).max(120),
      createdAtMs: timeMs,
      archivedAtMs: timeMs.nullable(),
      /** What its pages judge by; where it is not known, that is the usual spec. */
      specId: z.string().min(1).max(64).nullable().default(null),
    }),
    /** Each lies in the ZIP as `sources/<sha256>`. */
    sources: z.array(
      z.object({
        sha256,
        sizeBytes: bytes,
        layoutId: z.enum(LAYOUT_IDS).nullable(),
        track: z.int().positive().nullable(),
        /** What was read of it: for people and other programs. It is read anew when the job comes in. */
        readings: z.unknown(),
        findings: z.unknown(),
      }),
    ),
    programmes: z.array(
      readingOldNames(
        z.object({
          sourceSha256: sha256,
          title: z.string().max(1000),
          fileName,
          note: z.string().max(10_000),
          groupName: z.string().max(200).nullable(),
          createdAtMs: timeMs,
          removedAtMs: timeMs.nullable(),
          markers: z
            .array(
              z.object({
                startFrame: z.int().nonnegative(),
                endFrame: z.int().positive().nullable(),
                name: z.string().max(120),
                createdAtMs: timeMs,
              }),
            )
            .default([]),
          /** The version that is set; null is the newest. */
          currentVersion: z.int().positive().nullable().default(null),
          treatments: z.array(
            z.object({
              version: z.int().positive(),
              treatment: treatmentSchema,
              name: z.string().max(120).default(''),
              heardAtMs: timeMs.nullable().default(null),
              updatedAtMs: timeMs,
            }),
          ),
          tags: tagsSchema.nullable().default(null),
          /** It lies in the ZIP as `covers/<sha256>`. */
          cover: coverSchema.nullable().default(null),
          /** Which tracks of a film it was made of; null where it was not. */
          film: filmTracksSchema.nullable().default(null),
          /** Of its first frame, set by hand; null where that of its file holds. */
          timeCode: startTimeCodeSchema.nullable().default(null),
          /** Rows of its hand-over sheet, in order. */
          rows: z
            .array(
              readingOldNames(
                setRowFields
                  .omit({ receiverId: true })
                  .extend({ trim: trimSchema.nullable(), edges: rowEdgesSchema.nullable().default(null) }),
                OLD_ROW_NAMES,
              ),
            )
            .max(1000)
            .default([]),
          /** Each of its files lies in the ZIP as `deliveries/<fileName>`. */
          deliveries: z.array(
            readingOldNames(
              z.object({
                fileName,
                sha256,
                sizeBytes: bytes,
                /** Where each channel has a file of its own; else it is the one above. */
                files: z
                  .array(z.object({ fileName, channel: z.string().max(20), sha256, sizeBytes: bytes }))
                  .max(24)
                  .default([]),
                /** What it was made from; null where that is the source of its programme. */
                sourceSha256: sha256.nullable().default(null),
                /** Null of a WAV of 24 bits. */
                format: resolvedFormatSchema.nullable().default(null),
                treatment: treatmentSchema.nullable().default(null),
                acceptedReason: z.string().max(2000).nullable().default(null),
                acceptedBy: z.string().max(80).nullable().default(null),
                approvedBy: z.string().max(80).nullable().default(null),
                approvedAtMs: timeMs.nullable().default(null),
                /** What the file says of itself; null where that is not known. */
                said: z
                  .object({
                    tags: tagsSchema,
                    coverSha256: sha256.nullable(),
                    timeCode: startTimeCodeSchema.nullable().default(null),
                  })
                  .nullable()
                  .default(null),
                /** The row that it was written for, counted from 0. */
                row: z.int().nonnegative().nullable().default(null),
                passes: z.array(passSchema).max(10).default([]),
                expectedFrames: z.int().nonnegative().nullable().default(null),
                audioSha256: sha256.nullable().default(null),
                /** Of a film's sound: the time code that it begins at. */
                startTimeCode: startTimeCodeSchema.nullable().default(null),
                treatmentVersion: z.int().positive(),
                spec: specSchema,
                createdAtMs: timeMs,
                writtenAtMs: timeMs,
                readings: z.unknown(),
              }),
              OLD_DELIVERY_NAMES,
            ),
          ),
        }),
        OLD_PROGRAMME_NAMES,
      ),
    ),
    /** Programmes that belong together, each by its place in the list above. */
    lineUps: z
      .array(
        z.object({
          kind: z.enum(LINE_UP_KINDS),
          name: z.string().min(1).max(120),
          specId: z.string().min(1).max(64).nullable(),
          record: recordSettings.default(USUAL_RECORD),
          /** Of stems: which programme is their mix; null where its name tells. */
          mix: place.nullable().default(null),
          /** Of a book: which programme its retail sample is a span of; null where there is none. */
          sampled: place.nullable().default(null),
          createdAtMs: timeMs,
          members: z
            .array(
              z.object({
                programme: place,
                gapSeconds: z.number().min(-MOST_GAP_SECONDS).max(MOST_GAP_SECONDS),
              }),
            )
            .max(MOST_MEMBERS),
          /** What was written of it. */
          records: z.array(writtenRecordSchema).max(1000).default([]),
        }),
      )
      .max(1000)
      .default([]),
    /** What came back of outboard gear. */
    passes: z.array(archivedPassSchema).max(10_000).default([]),
  })
  .refine(({ programmes, passes }) => arePasses(passes, programmes.length), {
    path: ['passes'],
    message: 'a pass is of a programme that is not there, or has the number of another',
  })
  .refine(({ programmes, lineUps }) => lineUps.every((lineUp) => isWithin(lineUp, programmes.length)), {
    path: ['lineUps'],
    message: 'a line-up names a programme twice, or one that is not there',
  });

export type Manifest = z.infer<typeof manifestSchema>;

/** Whether each member is one of so many programmes, and each but once. */
function isWithin(
  {
    members,
    mix,
    sampled,
    records,
  }: {
    members: readonly { programme: number }[];
    mix: number | null;
    sampled: number | null;
    records: readonly WrittenRecord[];
  },
  programmes: number,
): boolean {
  const places = new Set(members.map(({ programme }) => programme));
  if ([mix, sampled].some((place) => place !== null && !places.has(place))) return false;
  // What was written is of programmes that may have left the line-up since.
  const all = [...members, ...records.flatMap(({ order }) => order.members)];
  return places.size === members.length && all.every(({ programme }) => programme < programmes);
}

/** The files of everything that was written of line-ups, and where they lie in the ZIP. */
export function recordFilesOf({
  lineUps,
}: Manifest): (WrittenRecord['outcome']['files'][number] & { entry: string })[] {
  return lineUps.flatMap(({ records }) =>
    records.flatMap(({ folderName, outcome }) =>
      outcome.files.map((file) => ({ ...file, entry: `records/${folderName}/${file.fileName}` })),
    ),
  );
}

/** The covers of all programmes, each once, by their hash. */
export function coversOf({ programmes }: Manifest): Map<string, Cover> {
  return new Map(programmes.flatMap(({ cover }) => (cover ? [[cover.sha256, cover] as const] : [])));
}

/** The files that a delivery is made of. */
export function filesOf(
  delivery: Manifest['programmes'][number]['deliveries'][number],
): { fileName: string; sha256: string; sizeBytes: number }[] {
  return delivery.files.length > 0 ? delivery.files : [delivery];
}
