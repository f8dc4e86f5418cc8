/** An audio definition (ADM) and its renderings, as the command prints them. */
import { admOutline, type OutlineNode } from '@/core/adm/outline';
import { formatTime } from '@/core/units/format';
import { openAdm } from '@/workers/node/render-adm';
import type { FileReport } from '@/workers/protocol';
import type { MeasuredRendering } from './measure-renderings';
import { renderingMessages as messages } from './messages';
import { findingLines, formatLine, readingTable } from './print';

/** A rendering that was measured, of a file. */
interface Rendered {
  file: string;
  report: FileReport;
  rendering?: Pick<MeasuredRendering, 'programme' | 'layout'>;
}

/** A file's tree, and for each of its programmes the readings of every layout beside one another. */
export async function renderingLines(file: string, reports: readonly Rendered[]): Promise<string[]> {
  const own = reports.filter((report) => report.file === file);
  const [first] = own;
  if (!first) return [];
  const { header, definition } = await openAdm(file, file);
  const programmes = new Map(own.map(({ rendering }) => [rendering?.programme?.id, rendering?.programme]));
  const tables = [...programmes].flatMap(([id, programme]) => {
    const renderings = own.filter(({ rendering }) => rendering?.programme?.id === id);
    return [
      `  ${programme ? messages.rendered(programme.name) : messages.whole}`,
      ...readingTable(
        renderings.map(({ rendering, report }) => ({ heading: rendering?.layout ?? '', readings: report.readings })),
      ),
      ...findingsOf(renderings.map(({ rendering, report }) => [rendering?.layout ?? '', findingLines(report)])),
    ];
  });
  return [file, `  ${formatLine(header.format)}`, ...outlineLines(admOutline(definition.model), 1), ...tables];
}

/** The tree of a file's definition, beside readings of its channels as they are. */
export async function definitionOutline(file: string): Promise<string[]> {
  const { definition } = await openAdm(file, file);
  return [messages.asTheyAre, ...outlineLines(admOutline(definition.model), 1)];
}

/** What is found in all renderings once, and what in some with their layouts. */
function findingsOf(renderings: readonly (readonly [layout: string, lines: string[]])[]): string[] {
  const lines = [...new Set(renderings.flatMap(([, own]) => own))];
  return lines.map((line) => {
    const layouts = renderings.filter(([, own]) => own.includes(line)).map(([layout]) => layout);
    return layouts.length === renderings.length ? line : messages.finding(line, layouts.join(', '));
  });
}

/** The tree of a definition, a line for each of its nodes. */
function outlineLines(nodes: readonly OutlineNode[], depth: number): string[] {
  return nodes.flatMap(({ kind, id, name, language, object, children }) => {
    const details = object
      ? [
          ...object.types.map((type) => messages.types[type]),
          ...(object.channels.length > 0 ? [messages.channels(runsOf(object.channels), object.channels.length)] : []),
          ...timesOf(object),
        ]
      : [messages.kinds[kind], ...(language === null ? [] : [language])];
    return [`${'  '.repeat(depth)}${messages.node(name, id, details)}`, ...outlineLines(children, depth + 1)];
  });
}

function timesOf({ startSeconds, durationSeconds }: NonNullable<OutlineNode['object']>): string[] {
  const at = (seconds: number) => formatTime(seconds, { milliseconds: true });
  return [
    ...(startSeconds === null ? [] : [messages.from(at(startSeconds))]),
    ...(durationSeconds === null ? [] : [messages.to(at((startSeconds ?? 0) + durationSeconds))]),
  ];
}

/** Numbers as runs: 1–6, 9. */
function runsOf(numbers: readonly number[]): string {
  const runs: [number, number][] = [];
  for (const number of numbers) {
    const last = runs.at(-1);
    if (last && number === last[1] + 1) last[1] = number;
    else runs.push([number, number]);
  }
  return runs.map(([from, to]) => (from === to ? `${from}` : `${from}–${to}`)).join(', ');
}
