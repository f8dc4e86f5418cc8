/** `opsimeter master --spans`: every span of a file that a list names, as a file of its own. */
import { basename, dirname, extname, join } from 'node:path';
import { plainName } from '@/core/lineup/track-name';
import { formatTime } from '@/core/units/format';
import type { NamedSpan } from '@/formats/span-list';
import { complaint, EXIT, json, type Output } from './commands';
import {
  checkIsFree,
  type MasteringOptions,
  masterAudio,
  outcomeJson,
  outcomeText,
  SILENT,
  verdictOf,
} from './master-command';
import { withAudio } from './measuring';
import { spansMessages as messages } from './messages';
import { verdictLines } from './print';
import { spansOf } from './spans';

/**
 * Masters each span to a file whose name says its number and its own name. A span that cannot be written costs none of the others.
 *
 * @param listPath an edit list (CMX 3600) or a table (CSV)
 * @throws AppError `usage`, or `file-exists` before anything is written
 */
export function masterSpansCommand(
  file: string,
  outputPath: string,
  listPath: string,
  asJson: boolean,
  output: Output,
  options: MasteringOptions,
): Promise<number> {
  const { tracks, rendering } = options;
  return withAudio(
    file,
    async (audio) => {
      const spans = await spansOf(
        audio,
        listPath,
        ({ line, why, text }) => output.complain(messages.unread(listPath, line, why, text)),
        options.timeCode,
      );
      const paths = spans.map((span, i) => spanPath(outputPath, i + 1, span));
      for (const path of paths) checkIsFree(path);
      const results: object[] = [];
      let [missed, failed] = [0, 0];
      for (const [i, span] of spans.entries()) {
        const path = paths[i] as string;
        try {
          const result = await masterAudio(audio, path, () => SILENT, { ...options, wanted: ofSpan(options, span) });
          const verdict = verdictOf(result, result.wanted.spec);
          if (!verdict.inside) missed++;
          results.push({ files: result.paths, source: file, span, ...outcomeJson(result), verdict });
          if (!asJson) {
            const at = (frame: number) => formatTime(frame / audio.header.format.sampleRateHz, { milliseconds: true });
            const title = messages.title(file, span.name, at(span.startFrame), at(span.endFrame));
            output.print(`${title} → ${result.paths.join(', ')}`);
            output.print(`  ${outcomeText(result.mastered)}`);
            for (const line of verdictLines(verdict, result.wanted.spec)) output.print(line);
          }
        } catch (error) {
          failed++;
          output.complain(complaint(error));
          results.push({ source: file, span, error: complaint(error) });
        }
      }
      if (asJson) output.print(json(results));
      if (failed > 0) return EXIT.unusable;
      return missed > 0 ? EXIT.misses : EXIT.ok;
    },
    { tracks, rendering },
  );
}

function ofSpan({ wanted }: MasteringOptions, { startFrame, endFrame }: NamedSpan): MasteringOptions['wanted'] {
  return (source) => {
    const own = wanted(source);
    return { ...own, treatment: { ...own.treatment, trim: { startFrame, endFrame } } };
  };
}

/** `acts.wav` becomes `acts 01 Opening.wav`. */
export function spanPath(outputPath: string, number: number, { name }: NamedSpan): string {
  const extension = extname(outputPath);
  const stem = basename(outputPath, extension);
  return join(dirname(outputPath), `${stem} ${String(number).padStart(2, '0')} ${plainName(name)}${extension}`);
}
