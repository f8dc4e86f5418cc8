/** Records of a job file: programmes in order, written as one file or as a file for each, in a folder of their own. */
import { existsSync } from 'node:fs';
import { basename, extname, join, resolve } from 'node:path';
import * as z from 'zod';
import { deliveryFormatSchema, describeFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS, tagsSchema } from '@/core/file-formats/tags';
import { RECORD_FORMS } from '@/core/lineup/assembly';
import { assessCd } from '@/core/lineup/cd';
import { BALANCES, MOST_GAP_SECONDS, MOST_MEMBERS, recordSettings } from '@/core/lineup/line-up';
import { planRecord, trackTags } from '@/core/lineup/record';
import { plainName } from '@/core/lineup/track-name';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { readingOldNames } from '@/core/schema/old-names';
import { specById } from '@/core/spec/catalogue';
import { type Spec, specSchema } from '@/core/spec/spec';
import { OLD_STEP_NAMES, treatmentFields, treatmentSchema } from '@/core/treatment/treatment';
import type { Assembled, AssemblyOrder, AssemblySteps } from '@/workers/node/assembly-order';
import { renderFile } from '@/workers/node/render-file';
import { writeAssembly } from '@/workers/node/write-assembly';
import type { Audio } from './audio';
import { checkCover, coverAt } from './covers';
import { levelledTracks, type SetTrack } from './levelled-tracks';
import { type MeasuringOptions, withAudios } from './measuring';
import { assemblySteps, intoFolder } from './written-folder';

/** Files are named from where the job file lies. */
export const recordSchema = recordSettings.extend({
  /** The title of the record, and the name of its folder. */
  name: z.string().trim().min(1).max(120),
  kind: z.enum(['record', 'book']).default('record'),
  spec: z.union([z.string(), specSchema]),
  format: deliveryFormatSchema,
  form: z.enum(RECORD_FORMS).default('continuous'),
  cover: z.string().min(1).optional(),
  /** How gains are found before it is written; as each track's treatment has it unless it is said. */
  levels: z.enum(['as-set', ...BALANCES]).default('as-set'),
  tracks: z
    .array(
      z.object({
        file: z.string().min(1),
        /** The file's name without its extension, unless it is said. */
        title: z.string().trim().min(1).max(200).optional(),
        gapSeconds: z.number().min(-MOST_GAP_SECONDS).max(MOST_GAP_SECONDS).default(0),
        treatment: readingOldNames(treatmentFields.partial(), OLD_STEP_NAMES).default({}),
        tags: tagsSchema.default(NO_TAGS),
      }),
    )
    .min(1)
    .max(MOST_MEMBERS),
});
type RecordJob = z.infer<typeof recordSchema>;

export interface WrittenRecord extends Assembled {
  folder: string;
  formatText: string;
  spec: Spec;
  cd: ReturnType<typeof assessCd> | null;
  /** Of each track, as it was written. */
  gainsDb: number[];
  /** Titles of tracks whose peaks stopped the gain before the target. */
  stoppedBy: string[];
}

/** Where a record is written: a folder of its own, that must not exist. */
function recordFolder(record: RecordJob, outputFolder: string): string {
  return join(outputFolder, plainName(record.name));
}

/** Everything that would keep a record from being written; nothing where it can be. */
export async function checkRecord(record: RecordJob, jobFolder: string, outputFolder: string): Promise<void> {
  specOf(record);
  const folder = recordFolder(record, outputFolder);
  if (existsSync(folder)) throw new AppError('file-exists', { fileName: folder });
  if (record.cover) await checkCover(coverAt(resolve(jobFolder, record.cover)));
  for (const { file } of record.tracks)
    if (!existsSync(resolve(jobFolder, file))) throw new AppError('file-missing', { fileName: file });
}

/** Writes a record. Its folder appears once everything in it was read back; whatever goes wrong, nothing is left of it. */
export async function writeRecord(
  record: RecordJob,
  jobFolder: string,
  outputFolder: string,
  options: MeasuringOptions,
): Promise<WrittenRecord> {
  await checkRecord(record, jobFolder, outputFolder);
  const files = record.tracks.map(({ file }) => resolve(jobFolder, file));
  return withAudios(files, async (audios) => {
    const spec = specOf(record);
    const set = setTracks(record);
    const { tracks, stoppedBy } =
      record.levels === 'as-set'
        ? { tracks: set, stoppedBy: [] }
        : await levelledTracks(set, audios, { balance: record.levels, spec, limit: record.limit }, options);
    const order = orderOf(record, tracks, jobFolder, audios, options);
    const folder = recordFolder(record, outputFolder);
    const assembled = await intoFolder(folder, (temporary) =>
      writeAssembly({ ...order, folder: temporary }, stepsOf(order, audios, options)),
    );
    const isrcs = order.record.tracks.map(({ isrc }) => isrc);
    const { assembly, format } = order;
    const cd = record.isForCd ? assessCd({ assembly, ...format, isrcs, pregapSeconds: record.pregapSeconds }) : null;
    const gainsDb = tracks.map(({ treatment }) => treatment.gainDb);
    return { ...assembled, folder, formatText: describeFormat(format), spec, cd, gainsDb, stoppedBy };
  });
}

/** The tracks as the job file has them. */
function setTracks(record: RecordJob): SetTrack[] {
  return record.tracks.map(({ file, title, gapSeconds, treatment }) => ({
    title: title ?? basename(file, extname(file)),
    gapSeconds,
    treatment: treatmentSchema.parse({ gainDb: 0, ...treatment }),
  }));
}

type Order = Omit<AssemblyOrder, 'folder'> & { treatments: ReturnType<typeof planRecord>['treatments'] };

function orderOf(
  record: RecordJob,
  set: readonly SetTrack[],
  jobFolder: string,
  audios: readonly Audio[],
  { layoutId }: MeasuringOptions,
): Order {
  const { name, artist, catalogNumber, pregapSeconds, limit, form, cover } = record;
  const members = set.map((track, i) => ({ ...track, source: (audios[i] as Audio).header.format }));
  const { format, treatments, assembly } = planRecord(members, record.format, limit);
  const tracks = record.tracks.map(({ tags }, i) => ({
    title: tags.title || (members[i]?.title ?? ''),
    artist: tags.artist,
    isrc: tags.isrc,
  }));
  const said = { title: name, artist, catalogNumber, pregapSeconds, tracks };
  return {
    stem: plainName(name),
    form,
    isBook: record.kind === 'book',
    assembly,
    record: said,
    trackTags: record.tracks.map(({ tags }, i) => trackTags(said, i, tags)),
    format,
    spec: specOf(record),
    limit,
    cover: cover === undefined ? null : coverAt(resolve(jobFolder, cover)),
    layoutId: writtenLayoutId(format.channels, layoutId ?? null),
    treatments,
  };
}

function stepsOf({ treatments }: Order, audios: readonly Audio[], options: MeasuringOptions): AssemblySteps {
  const layoutId = options.layoutId ?? null;
  return {
    ...assemblySteps(options),
    renderMember: (i, outputPath, onProgress) => {
      const { path, file } = audios[i] as Audio;
      const treatment = treatments[i] as Order['treatments'][number];
      return renderFile(path, outputPath, { treatment, bitDepth: 32, layoutId, fileName: basename(file), onProgress });
    },
  };
}

function specOf({ spec }: RecordJob): Spec {
  return typeof spec === 'string' ? specById(spec) : spec;
}
