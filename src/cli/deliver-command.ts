/** `opsimeter deliver`: what a job file asks for, one delivery after another. */
import { readFileSync } from 'node:fs';
import { mkdir } from 'node:fs/promises';
import { basename, dirname, extname, join, resolve } from 'node:path';
import * as z from 'zod';
import { deliveredTreatment, treatedProgramme } from '@/core/delivery/compose';
import { KIND_FACTS } from '@/core/delivery/file-kinds';
import { DEFAULT_TEMPLATE, fileStem } from '@/core/delivery/file-name';
import {
  deliveryFormatSchema,
  describeFormat,
  formatProblems,
  type SettledFormat,
  settleFormat,
} from '@/core/delivery/format';
import { deliveryWaySchema } from '@/core/delivery/line';
import { NO_TAGS, tagsSchema } from '@/core/delivery/tags';
import { AppError } from '@/core/errors/app-error';
import { specById } from '@/core/spec/catalogue';
import { specSchema } from '@/core/spec/spec';
import { judge } from '@/core/spec/verdict';
import { USUAL_LIMITER } from '@/core/treatment/steps/limit';
import { treatmentSchema } from '@/core/treatment/treatment';
import { complaint, EXIT, json, type Output } from './commands';
import { masterFile, outcomeJson, outcomeText, SILENT } from './master-command';
import { type MeasuringOptions, withAudio } from './measuring';
import { verdictLines } from './print';
import { coverAt, type MasterOptions } from './treatment-options';

/** Files are named from where the job file lies. */
const jobFileSchema = z.object({
  /** The folder that is written to; made where it is not there. */
  output: z.string().min(1).default('.'),
  /** As on the hand-over sheet. */
  name: z.string().min(1).max(200).default(DEFAULT_TEMPLATE),
  job: z.string().max(200).default('job'),
  programmes: z
    .array(
      z.object({
        file: z.string().min(1),
        /** The file's name without its extension, unless it is said. */
        title: z.string().min(1).max(200).optional(),
        treatment: treatmentSchema.partial().default({}),
        tags: tagsSchema.default(NO_TAGS),
        /** A PNG or JPEG picture. */
        cover: z.string().min(1).optional(),
        deliveries: z
          .array(
            z.object({
              /** The id of a built-in spec, or one of your own. */
              spec: z.union([z.string(), specSchema]),
              format: deliveryFormatSchema.refine(({ isKept }) => !isKept, 'Tags alone are written in the app'),
              way: deliveryWaySchema.default({ kind: 'solved', maxReductionDb: 0, marginDb: 0 }),
            }),
          )
          .min(1),
      }),
    )
    .min(1),
});

export async function deliverCommand(
  jobFile: string,
  asJson: boolean,
  output: Output,
  options: MeasuringOptions,
): Promise<number> {
  const job = readJob(jobFile);
  const folder = dirname(resolve(jobFile));
  const outputFolder = resolve(folder, job.output);
  await mkdir(outputFolder, { recursive: true });
  const results: object[] = [];
  let [missed, failed] = [0, 0];
  for (const [index, programme] of job.programmes.entries()) {
    const file = resolve(folder, programme.file);
    const title = programme.title ?? basename(file, extname(file));
    for (const delivery of programme.deliveries) {
      const spec = typeof delivery.spec === 'string' ? specById(delivery.spec) : delivery.spec;
      try {
        const treatment = treatmentSchema.parse({ gainDb: 0, ...programme.treatment });
        const source = await withAudio(file, async ({ header }) => header.format);
        const treated = treatedProgramme(treatment, source, delivery.format);
        const [problem] = formatProblems(delivery.format, treated);
        if (problem) throw new AppError('format-impossible', { problem: problem.text, nearest: problem.nearestText });
        const format = settleFormat(delivery.format, treated);
        const name = `${fileStem(job.name, {
          ...{ title, spec: spec.id, rate: format.sampleRateHz, version: 1, job: job.job, track: index + 1 },
          format: formatField(format),
        })}.${KIND_FACTS[format.kind].extensions[0]}`;
        const composed = deliveredTreatment(treatment, format, source.sampleRateHz);
        const { way } = delivery;
        const wanted: MasterOptions = {
          spec:
            way.kind === 'solved'
              ? { ...spec, peak: { ...spec.peak, ceiling: spec.peak.ceiling - way.marginDb } }
              : spec,
          gainDb: way.kind === 'as-set' ? composed.gainDb : null,
          maxReductionDb: way.kind === 'as-set' ? (composed.limit ? 1 : 0) : way.maxReductionDb,
          // The steps ahead have brought it to its rate and channels.
          format: {
            ...delivery.format,
            sampleRateHz: null,
            arrangement: format.arrangement === 'split' ? 'split' : 'interleaved',
          },
          treatment: { ...composed, gainDb: 0, limit: null },
          limit: { ...USUAL_LIMITER, ...composed.limit },
          tags: programme.tags,
          cover: programme.cover === undefined ? null : coverAt(resolve(folder, programme.cover)),
        };
        const outputPath = join(outputFolder, name);
        const result = await masterFile(file, outputPath, () => SILENT, { ...options, wanted: () => wanted });
        const { readings, format: written } = result.mastered.after;
        const verdict = judge(readings, written, spec);
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
  }
  if (asJson) output.print(json(results));
  if (failed > 0) return EXIT.unusable;
  return missed > 0 ? EXIT.misses : EXIT.ok;
}

function formatField({ bitDepth, bitRateKbps }: SettledFormat): string {
  return bitDepth === null ? `${bitRateKbps}k` : `${bitDepth}bit`;
}

function readJob(jobFile: string): z.infer<typeof jobFileSchema> {
  try {
    return jobFileSchema.parse(JSON.parse(readFileSync(jobFile, 'utf8')));
  } catch (error) {
    const [issue] = error instanceof z.ZodError ? error.issues : [];
    const where = issue ? `: ${issue.path.join('.')} ${issue.message}` : '';
    throw new AppError('usage', { reason: `${jobFile} is not a job that can be read${where}` }, { cause: error });
  }
}
