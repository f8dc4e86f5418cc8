/** `opsimeter deliver`: what a job file asks for, one delivery after another. */
import { existsSync, readFileSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { basename, dirname, extname, join, resolve } from 'node:path';
import * as z from 'zod';
import { RENDER_LAYOUTS } from '@/core/adm/render-layouts';
import { DEFAULT_TEMPLATE, fileStem, foldersOf, formatFields } from '@/core/delivery/file-name';
import { deliveryFormatSchema, describeFormat, type ResolvedFormat } from '@/core/delivery/format';
import { levelModeSchema, OLD_ROW_NAMES } from '@/core/delivery/row';
import { stepsFor, type Template } from '@/core/delivery/template';
import { AppError } from '@/core/errors/app-error';
import { FILE_FORMATS } from '@/core/file-formats/file-formats';
import { NO_TAGS, tagsSchema } from '@/core/file-formats/tags';
import { channelLayout, writtenOrder } from '@/core/loudness/channel-layout';
import { readingOldNames } from '@/core/schema/old-names';
import { someOf } from '@/core/schema/some-of';
import { specById } from '@/core/spec/catalogue';
import { type Spec, specSchema } from '@/core/spec/spec';
import { OLD_STEP_NAMES, treatmentFields, treatmentSchema } from '@/core/treatment/treatment';
import type { WantedRendering } from './audio';
import { bookSchema } from './book-schema';
import { checkBook, writeBook } from './books';
import { complaint, EXIT, json, type Output } from './commands';
import { coverAt } from './covers';
import { templateNamed } from './job-template';
import { masterFile, outcomeJson, outcomeText, SILENT, verdictOf } from './master-command';
import type { MasterOptions } from './master-options';
import type { MeasuringOptions } from './measuring';
import { deliverCommandMessages as messages } from './messages';
import { plannedMaster, sourceFormat } from './planned-master';
import { verdictLines } from './print';
import { bookJson, bookLines, recordJson, recordLines, stemsJson, stemsLines } from './print-folders';
import { checkRecord, recordSchema, writeRecord } from './records';
import { checkStems, stemsSchema, writeStemsFolder } from './stems';

/** Files are named from where the job file lies. */
const jobFileSchema = z
  .object({
    /** The folder that is written to; made where it is not there. */
    output: z.string().min(1).default('.'),
    /** As on the hand-over sheet. */
    name: z.string().min(1).max(200).default(DEFAULT_TEMPLATE),
    job: z.string().max(200).default('job'),
    programmes: z
      .array(
        z
          .object({
            file: z.string().min(1),
            /** The file's name without its extension, unless it is said. */
            title: z.string().min(1).max(200).optional(),
            treatment: readingOldNames(someOf(treatmentFields), OLD_STEP_NAMES).default({}),
            tags: tagsSchema.default(NO_TAGS),
            /** Of an audio definition (ADM): for which loudspeakers it is rendered, and which of its programmes; the first unless it is said. */
            render: z.enum(RENDER_LAYOUTS).optional(),
            audioProgramme: z.string().min(1).max(100).optional(),
            /** A PNG or JPEG picture. */
            cover: z.string().min(1).optional(),
            deliveries: z
              .array(
                readingOldNames(
                  z.object({
                    /** The id of a built-in spec, or one of your own. */
                    spec: z.union([z.string(), specSchema]),
                    format: deliveryFormatSchema.refine(
                      ({ isPassthrough }) => !isPassthrough,
                      messages.tagsOnlyInTheApp,
                    ),
                    levelMode: levelModeSchema.default({ kind: 'solved', maxReductionDb: 0, marginDb: 0 }),
                  }),
                  OLD_ROW_NAMES,
                ),
              )
              .default([]),
            /** A template of the app by its name, or a file: its deliveries follow those above, its steps are ahead of the treatment. */
            template: z.string().min(1).optional(),
          })
          .refine(({ deliveries, template }) => deliveries.length > 0 || template !== undefined, messages.noDeliveries),
      )
      .default([]),
    /** Programmes in order that are written as one: docs/line-up.md. */
    records: z.array(recordSchema).default([]),
    /** Mixes with their stems, written so that they add up. */
    stems: z.array(stemsSchema).default([]),
    /** Books, each in a folder of its own. */
    books: z.array(bookSchema).default([]),
  })
  .refine(
    ({ programmes, records, stems, books }) => programmes.length + records.length + stems.length + books.length > 0,
    messages.nothingToWrite,
  );

/** A row of a job file, with everything that can be told of it before a byte is written. */
interface Row {
  file: string;
  spec: Spec;
  format: ResolvedFormat;
  outputPath: string;
  /** What it is written as: one file, or one for each channel. */
  paths: string[];
  rendering: WantedRendering | undefined;
  wanted: MasterOptions;
}

type JobFile = z.infer<typeof jobFileSchema>;
type Programme = JobFile['programmes'][number];

export async function deliverCommand(
  jobFile: string,
  asJson: boolean,
  output: Output,
  options: MeasuringOptions,
): Promise<number> {
  const job = readJob(jobFile);
  const folder = dirname(resolve(jobFile));
  const outputFolder = resolve(folder, job.output);
  const { rows, problems } = await plan(job, folder, options);
  const refuse = ({ name, spec }: { name: string; spec: string | Spec }) => {
    return (error: unknown) => problems.push({ source: name, spec: nameOf(spec), text: complaint(error) });
  };
  for (const record of job.records) await checkRecord(record, folder, outputFolder).catch(refuse(record));
  for (const stems of job.stems) await checkStems(stems, folder, outputFolder).catch(refuse(stems));
  for (const book of job.books) await checkBook(book, folder, outputFolder).catch(refuse(book));
  if (problems.length > 0) {
    // All of them, and before the first byte: nobody finds the last one out after an hour.
    for (const { text } of problems) output.complain(text);
    if (asJson) output.print(json(problems.map(({ source, spec, text }) => ({ source, spec, error: text }))));
    return EXIT.unusable;
  }
  await mkdir(outputFolder, { recursive: true });
  const results: object[] = [];
  let [missed, failed] = [0, 0];
  for (const { file, spec, format, outputPath, rendering, wanted } of rows) {
    try {
      await mkdir(dirname(outputPath), { recursive: true });
      const result = await masterFile(file, outputPath, () => SILENT, {
        ...options,
        rendering,
        wanted: () => wanted,
      });
      const verdict = verdictOf(result, spec);
      if (!verdict.inside) missed++;
      results.push({ files: result.paths, source: file, spec: spec.id, ...outcomeJson(result), verdict });
      if (!asJson) {
        output.print(`${file} → ${result.paths.join(', ')}`);
        output.print(`  ${describeFormat(format)}; ${outcomeText(result.mastered)}`);
        for (const line of verdictLines(verdict, spec)) output.print(line);
      }
    } catch (error) {
      failed++;
      output.complain(complaint(error));
      results.push({ source: file, spec: spec.id, error: complaint(error) });
    }
  }
  /** Writes folders one after another; what keeps one from it is told of that one, and the others go on. */
  const writeFolders = async <J extends { name: string; spec: string | Spec }, W>(
    kind: string,
    jobs: readonly J[],
    how: {
      write: (asked: J, jobFolder: string, into: string, measuring: MeasuringOptions) => Promise<W>;
      isMet: (written: W) => boolean;
      json: (name: string, written: W) => object;
      lines: (name: string, written: W) => string[];
    },
  ) => {
    for (const asked of jobs) {
      try {
        const written = await how.write(asked, folder, outputFolder, options);
        if (!how.isMet(written)) missed++;
        results.push(how.json(asked.name, written));
        if (!asJson) for (const line of how.lines(asked.name, written)) output.print(line);
      } catch (error) {
        failed++;
        output.complain(complaint(error));
        results.push({ [kind]: asked.name, spec: nameOf(asked.spec), error: complaint(error) });
      }
    }
  };
  await writeFolders('record', job.records, {
    write: writeRecord,
    isMet: ({ verdict, cd }) => verdict.inside && !cd?.some(({ inside }) => !inside),
    json: recordJson,
    lines: recordLines,
  });
  await writeFolders('stems', job.stems, {
    write: writeStemsFolder,
    isMet: ({ verdict, residual }) => verdict.inside && residual.nulls,
    json: stemsJson,
    lines: stemsLines,
  });
  await writeFolders('book', job.books, {
    write: writeBook,
    isMet: ({ missed: own, written }) => own.length === 0 && written?.verdict.inside === true,
    json: bookJson,
    lines: bookLines,
  });
  if (asJson) output.print(json(results));
  if (failed > 0) return EXIT.unusable;
  return missed > 0 ? EXIT.misses : EXIT.ok;
}

/** Every row, and everything that would keep one from being written: files, formats, and names that are taken or asked for twice. */
async function plan(job: JobFile, folder: string, options: MeasuringOptions) {
  const rows: Row[] = [];
  const problems: { source: string; spec: string; text: string }[] = [];
  const taken = new Map<string, string>();
  for (const [index, programme] of job.programmes.entries()) {
    const file = resolve(folder, programme.file);
    const template = programme.template === undefined ? null : templateNamed(programme.template, folder);
    const asked = [
      ...programme.deliveries,
      ...(template?.rows ?? []).map(({ specId, ...row }) => ({ ...row, spec: specId })),
    ];
    for (const delivery of asked) {
      const specId = nameOf(delivery.spec);
      const refuse = (error: unknown) => problems.push({ source: file, spec: specId, text: complaint(error) });
      try {
        const row = await rowOf(job, folder, { programme, index, template }, delivery, options);
        const { paths } = row;
        const told = `${file} for ${specId}`;
        const twin = paths.map((path) => taken.get(path)).find((own) => own !== undefined);
        const there = paths.find((path) => existsSync(path));
        for (const path of paths) taken.set(path, told);
        if (twin !== undefined) {
          refuse(new AppError('usage', { reason: messages.sameOutput(told, twin, basename(row.outputPath)) }));
        } else if (there !== undefined) refuse(new AppError('file-exists', { fileName: there }));
        else rows.push(row);
      } catch (error) {
        refuse(error);
      }
    }
  }
  return { rows, problems };
}

async function rowOf(
  job: JobFile,
  folder: string,
  { programme, index, template }: { programme: Programme; index: number; template: Template | null },
  { spec: asked, format: askedFormat, levelMode }: Programme['deliveries'][number],
  options: MeasuringOptions,
): Promise<Row> {
  const file = resolve(folder, programme.file);
  const title = programme.title ?? basename(file, extname(file));
  const spec = typeof asked === 'string' ? specById(asked) : asked;
  const { resampleHz } = programme.treatment;
  const { render: layout, audioProgramme: programmeId } = programme;
  const rendering = layout && { layout, programmeId };
  const steps = template
    ? stepsFor(template, resampleHz ?? (await sourceFormat(file, options.layoutId)).sampleRateHz)
    : {};
  const { source, format, wanted } = await plannedMaster(
    file,
    {
      spec,
      format: askedFormat,
      levelMode,
      treatment: treatmentSchema.parse({ gainDb: 0, ...steps, ...programme.treatment }),
      tags: { ...programme.tags, title: programme.tags.title || (programme.title ?? '') },
      cover: programme.cover === undefined ? null : coverAt(resolve(folder, programme.cover)),
    },
    { layoutId: options.layoutId, rendering },
  );
  const naming = template?.nameTemplate ?? job.name;
  const fields = {
    title,
    spec: spec.id,
    rate: format.sampleRateHz,
    version: 1,
    job: job.job,
    track: index + 1,
    ...formatFields(format),
  };
  const folders = foldersOf(naming, fields);
  const outputPath = join(
    resolve(folder, job.output),
    ...folders,
    `${fileStem(naming, fields)}.${FILE_FORMATS[format.kind].extensions[0]}`,
  );
  const { channels } = writtenOrder(channelLayout(format.channels, source.channelMask, options.layoutId)).layout;
  const paths =
    format.arrangement === 'split'
      ? channels.map(({ label }) => outputPath.replace(/(\.[^.]+)$/, `.${label}$1`))
      : [outputPath];
  return { file, spec, format, outputPath, paths, rendering, wanted };
}

function nameOf(spec: string | Spec): string {
  return typeof spec === 'string' ? spec : spec.id;
}

function readJob(jobFile: string): z.infer<typeof jobFileSchema> {
  try {
    return jobFileSchema.parse(JSON.parse(readFileSync(jobFile, 'utf8')));
  } catch (error) {
    const [issue] = error instanceof z.ZodError ? error.issues : [];
    const where = issue ? `: ${issue.path.join('.')} ${issue.message}` : '';
    throw new AppError('usage', { reason: messages.unreadable(jobFile, where) }, { cause: error });
  }
}
