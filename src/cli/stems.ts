/** Stems of a job file: a mix and its stems, written with one treatment so that they add up, in a folder of their own. */
import { existsSync } from 'node:fs';
import { basename, extname, join, resolve } from 'node:path';
import * as z from 'zod';
import { deliveryFormatSchema, describeFormat } from '@/core/delivery/format';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS, tagsSchema } from '@/core/file-formats/tags';
import { MOST_MEMBERS } from '@/core/lineup/line-up';
import { planStems, stemDifferences } from '@/core/lineup/stems/stems';
import { plainName } from '@/core/lineup/track-name';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { readingOldNames } from '@/core/schema/old-names';
import { specById } from '@/core/spec/catalogue';
import { type Spec, specSchema } from '@/core/spec/spec';
import { OLD_STEP_NAMES, treatmentFields, treatmentSchema } from '@/core/treatment/treatment';
import { nullFiles } from '@/workers/node/null-files';
import { toneIn } from '@/workers/node/prepare-file';
import {
  type StemFile,
  type StemsOrder,
  type StemsSteps,
  type WrittenStems,
  writeStems,
} from '@/workers/node/write-stems';
import type { Audio } from './audio';
import { audioOffsets, type MeasuringOptions, withAudios } from './measuring';
import { assemblySteps, intoFolder } from './written-folder';

const fileFields = {
  file: z.string().min(1),
  /** The file's name without its extension, unless it is said. */
  title: z.string().trim().min(1).max(200).optional(),
  tags: tagsSchema.default(NO_TAGS),
};

/** Files are named from where the job file lies. */
export const stemsSchema = z.object({
  /** What the whole is called, and the name of its folder. */
  name: z.string().trim().min(1).max(120),
  spec: z.union([z.string(), specSchema]),
  format: deliveryFormatSchema,
  /** Of the mix; the stems follow it. */
  treatment: readingOldNames(treatmentFields.partial(), OLD_STEP_NAMES).default({}),
  mix: z.object(fileFields),
  stems: z.array(z.object(fileFields)).min(1).max(MOST_MEMBERS),
  /** Files are aligned at their first frames, even if all of them state a time. */
  fromStart: z.boolean().default(false),
});
type StemsJob = z.infer<typeof stemsSchema>;

export interface WrittenStemsFolder extends WrittenStems {
  folder: string;
  formatText: string;
  spec: Spec;
}

/** Everything that would keep stems from being written; nothing where they can be. */
export async function checkStems(job: StemsJob, jobFolder: string, outputFolder: string): Promise<void> {
  specOf(job);
  const folder = join(outputFolder, plainName(job.name));
  if (existsSync(folder)) throw new AppError('file-exists', { fileName: folder });
  for (const { file } of [job.mix, ...job.stems])
    if (!existsSync(resolve(jobFolder, file))) throw new AppError('file-missing', { fileName: file });
}

/** Writes a mix and its stems. Their folder appears once everything in it was read back; whatever goes wrong, nothing is left of it. */
export async function writeStemsFolder(
  job: StemsJob,
  jobFolder: string,
  outputFolder: string,
  options: MeasuringOptions,
): Promise<WrittenStemsFolder> {
  await checkStems(job, jobFolder, outputFolder);
  const listed = [job.mix, ...job.stems];
  const files = listed.map(({ file }) => resolve(jobFolder, file));
  return withAudios(files, async (audios) => {
    const order = await orderOf(job, audios, options);
    const folder = join(outputFolder, plainName(job.name));
    const written = await intoFolder(folder, (temporary) =>
      writeStems({ ...order, folder: temporary }, stepsOf(options)),
    );
    return { ...written, folder, formatText: describeFormat(order.format), spec: order.spec };
  });
}

async function orderOf(
  job: StemsJob,
  audios: readonly Audio[],
  { layoutId }: MeasuringOptions,
): Promise<Omit<StemsOrder, 'folder'>> {
  const listed = [job.mix, ...job.stems];
  const offsets = job.fromStart ? null : await audioOffsets(audios);
  const [mix, ...stems] = audios.map(({ path, header: { format } }, i): StemFile => {
    const { file, title, tags } = listed[i] as StemsJob['mix'];
    return {
      path,
      title: title ?? basename(file, extname(file)),
      tags,
      frames: format.frames,
      offsetFrames: offsets?.[i] ?? 0,
    };
  }) as [StemFile, ...StemFile[]];
  const source = (audios[0] as Audio).header.format;
  audios.slice(1).forEach(({ header }, i) => {
    const blocking = stemDifferences(source, header.format).find(({ isBlocking }) => isBlocking);
    if (blocking) throw new AppError('stem-differs', { title: stems[i]?.title ?? '', difference: blocking.text });
  });
  const treatment = treatmentSchema.parse({ gainDb: 0, ...job.treatment });
  const plan = planStems(treatment, source, job.format);
  return {
    ...plan,
    name: job.name,
    spec: specOf(job),
    source,
    mix,
    stems,
    layoutId: writtenLayoutId(plan.format.channels, layoutId ?? null),
  };
}

function stepsOf(options: MeasuringOptions): StemsSteps {
  return {
    ...assemblySteps(options),
    findTone: (path, steps) => toneIn(path, steps),
    compare: (mix, stems, toleranceDb) => nullFiles(mix, stems, { toleranceDb }),
  };
}

function specOf({ spec }: StemsJob): Spec {
  return typeof spec === 'string' ? specById(spec) : spec;
}
