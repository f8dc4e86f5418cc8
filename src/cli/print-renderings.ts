/** An audio definition (ADM) and its renderings, as the command prints them. */
import { admOutline, type OutlineNode } from '@/core/adm/outline';
import { outlineDetails } from '@/core/adm/outline-words';
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
  return nodes.flatMap((node) => [
    `${'  '.repeat(depth)}${messages.node(node.name, node.id, outlineDetails(node))}`,
    ...outlineLines(node.children, depth + 1),
  ]);
}
