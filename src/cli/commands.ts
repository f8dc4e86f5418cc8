import type { RenderLayout } from '@/core/adm/render-layouts';
import { startAtLabel } from '@/core/delivery/start-time-code';
import { AppError, toErrorRecord } from '@/core/errors/app-error';
import { proposedTrackGroups } from '@/core/film/track-groups';
import { trackListText } from '@/core/film/track-lists';
import { findingsOf } from '@/core/findings/findings';
import { assess } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import { SPECS, specById } from '@/core/spec/catalogue';
import { factsOfFile } from '@/core/spec/facts';
import { documentOf } from '@/core/spec/spec';
import type { DownmixTo } from '@/core/treatment/downmixes';
import { formatTime } from '@/core/units/format';
import { timeCodeAt } from '@/core/units/time-code';
import type { AudioFormat } from '@/formats/audio-format';
import type { NamedSpan } from '@/formats/span-list';
import type { FileReport } from '@/workers/protocol';
import type { MeasuredRendering } from './measure-renderings';
import { type MeasuringOptions, measure } from './measuring';
import { printMessages as messages, renderingMessages, spansMessages } from './messages';
import { findingLines, formatLine, readingLines, verdictLines } from './print';

/** How files are measured, and whether a downmix, spans or renderings of them in their place. */
type CommandOptions = Omit<MeasuringOptions, 'rendering'> & {
  /** Renderings of its audio definition: for these layouts, of all its programmes or of one. */
  renderings?: { layouts: readonly RenderLayout[]; programmeId: string | undefined } | undefined;
  downmix?: DownmixTo | undefined;
  /** A list of spans, each to be measured by itself. */
  spans?: string | undefined;
};

/** Ends of a command: all well, something misses its spec, unusable input or usage. */
export const EXIT = { ok: 0, misses: 1, unusable: 2 } as const;

export interface Output {
  print(line: string): void;
  complain(line: string): void;
}

export async function measureCommand(
  files: readonly string[],
  asJson: boolean,
  output: Output,
  programmes: Programmes,
  options: CommandOptions = {},
): Promise<number> {
  const { reports, failed } = await measureAll(files, output, programmes, options);
  if (asJson) {
    // Loaded only now: it reads more formats than measuring does.
    const { readFileMetadata } = await import('@/workers/node/file-metadata');
    const listed: object[] = [];
    for (const { file, report, span, rendering } of reports) {
      const metadata = await readFileMetadata(file, file, report.format);
      const timeCode = options.timeCode ? startAtLabel(options.timeCode) : metadata.timeCode;
      const label = timeCode && timeCodeAt(timeCode, 0, report.format.sampleRateHz);
      listed.push({
        ...reportJson(file, report),
        ...(span ? { span } : {}),
        ...(rendering ? { rendering } : {}),
        metadata: { ...metadata, timeCode: timeCode && { label, ...timeCode } },
      });
    }
    output.print(json(listed));
  } else if (options.renderings) {
    const { renderingLines } = await import('./print-renderings');
    for (const file of files) for (const line of await renderingLines(file, reports)) output.print(line);
  } else {
    for (const { file, title, report } of reports) {
      output.print([title, `  ${formatLine(report.format)}`, ...readingLines(report.readings)].join('\n'));
      for (const line of findingLines(report)) output.print(line);
      if (report.format.adm) for (const line of await definitionLines(file)) output.print(line);
      if (report.format.track) for (const line of await trackLines(file, report.format)) output.print(line);
    }
  }
  return failed ? EXIT.unusable : EXIT.ok;
}

/** The audio definition of a file; one that cannot be read costs nothing of what was measured. */
async function definitionLines(file: string): Promise<string[]> {
  const { definitionOutline } = await import('./print-renderings');
  return definitionOutline(file).catch((error) => [`  ${complaint(error)}`]);
}

/** The sound tracks of a file that has several, and which of them belong together. */
async function trackLines(file: string, format: AudioFormat): Promise<string[]> {
  const { readFileMetadata } = await import('@/workers/node/file-metadata');
  const { tracks } = await readFileMetadata(file, file, format);
  const groups = proposedTrackGroups(tracks).filter(({ length }) => length > 1);
  const lines = tracks.map((track) => messages.track(track));
  return groups.length === 0 ? lines : [...lines, messages.trackGroups(groups.map(trackListText))];
}

export async function checkCommand(
  files: readonly string[],
  specId: string,
  asJson: boolean,
  output: Output,
  programmes: Programmes,
  options: CommandOptions = {},
): Promise<number> {
  const spec = specById(specId);
  const { reports, failed } = await measureAll(files, output, programmes, options);
  const judged: (Reported & { verdict: Verdict })[] = [];
  for (const reported of reports) {
    const { file, report } = reported;
    // Read only where a spec asks for them: it opens the file once more.
    const tags = spec.tags ? await tagsOf(file, report) : undefined;
    judged.push({ ...reported, verdict: assess(spec, factsOfFile({ ...report, tags })) });
  }
  if (asJson) {
    output.print(
      json(
        judged.map(({ file, report, span, rendering, verdict }) => ({
          ...reportJson(file, report),
          ...(span ? { span } : {}),
          ...(rendering ? { rendering } : {}),
          verdict,
        })),
      ),
    );
  } else {
    for (const { title, report, verdict } of judged) {
      output.print([title, `  ${formatLine(report.format)}`, ...verdictLines(verdict, spec)].join('\n'));
      for (const line of findingLines(report)) output.print(line);
    }
  }
  if (failed) return EXIT.unusable;
  return judged.every(({ verdict }) => verdict.inside) ? EXIT.ok : EXIT.misses;
}

export function specsCommand(asJson: boolean, output: Output): number {
  if (asJson) {
    output.print(json(SPECS));
  } else {
    for (const spec of SPECS) output.print(`${spec.id.padEnd(20)}${spec.name} — ${documentOf(spec)}`);
  }
  return EXIT.ok;
}

async function tagsOf(file: string, { format }: FileReport) {
  const { readFileTags } = await import('@/workers/node/file-metadata');
  return readFileTags(file, file, format);
}

/** Of each programme that is asked for of a file, its sound tracks; the first of them where none are stated. */
type Programmes = readonly (readonly number[] | undefined)[];

/** A file, or a part of it, as it was measured. */
interface Reported {
  file: string;
  title: string;
  report: FileReport;
  span?: NamedSpan;
  rendering?: Pick<MeasuredRendering, 'programme' | 'layout'>;
}

/** Measures each programme of each file; one that is unusable costs a line of complaint, never the readings of the others. */
async function measureAll(files: readonly string[], output: Output, programmes: Programmes, options: CommandOptions) {
  const reports: Reported[] = [];
  let failed = false;
  for (const file of files) {
    for (const tracks of programmes) {
      try {
        const title = tracks ? messages.ofTracks(file, trackListText(tracks)) : file;
        if (options.renderings) {
          const { rendered, errors } = await renderingsOf(file, options.renderings, options);
          reports.push(...rendered);
          for (const error of errors) output.complain(complaint(error));
          failed ||= errors.length > 0;
        } else if (options.spans === undefined) {
          reports.push({ file, title, report: (await measured(file, { ...options, tracks })).report });
        } else reports.push(...(await spansOf(file, title, options.spans, output, { ...options, tracks })));
      } catch (error) {
        failed = true;
        output.complain(complaint(error));
      }
    }
  }
  return { reports, failed };
}

async function renderingsOf(
  file: string,
  { layouts, programmeId }: NonNullable<CommandOptions['renderings']>,
  options: CommandOptions,
): Promise<{ rendered: Reported[]; errors: AppError[] }> {
  const { measureRenderings } = await import('./measure-renderings');
  const { renderings, errors } = await measureRenderings(file, layouts, programmeId, options);
  const rendered = renderings.map(({ report, ...rendering }) => {
    const { programme, layout } = rendering;
    return { file, title: renderingMessages.title(file, programme?.name ?? null, layout), report, rendering };
  });
  return { rendered, errors };
}

async function spansOf(
  file: string,
  title: string,
  list: string,
  output: Output,
  options: CommandOptions,
): Promise<Reported[]> {
  if (options.downmix) throw new AppError('usage', { reason: spansMessages.withoutDownmix });
  const { measureSpans } = await import('./spans');
  const all = await measureSpans(file, list, options, ({ line, why, text }) =>
    output.complain(spansMessages.unread(list, line, why, text)),
  );
  return all.map(({ span, report }) => {
    const at = (frame: number) => formatTime(frame / report.format.sampleRateHz, { milliseconds: true });
    const { name, startFrame, endFrame } = span;
    return { file, title: spansMessages.title(title, name, at(startFrame), at(endFrame)), report, span };
  });
}

async function measured(file: string, { downmix, ...options }: CommandOptions) {
  if (!downmix) return measure(file, options);
  // Loaded only now: nothing else of measuring knows the steps.
  const { measureDownmix } = await import('./downmixing');
  return measureDownmix(file, downmix, options);
}

/** An error in one line. */
export function complaint(error: unknown): string {
  const { happened, todo } = toErrorRecord(error);
  return `opsimeter: ${[happened, todo].filter(Boolean).join(' ').replaceAll('\n', ' ')}`;
}

function reportJson(file: string, report: FileReport) {
  const { format, readings, sha256, sizeBytes } = report;
  const findings = findingsOf(report);
  return { file, ...(sha256 === null ? {} : { sha256 }), sizeBytes, format, readings, findings };
}

export function json(value: unknown): string {
  return JSON.stringify(value, null, 2);
}
