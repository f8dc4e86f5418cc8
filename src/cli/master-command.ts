/** `opsimeter master`: loaded only for it, since it reads and writes more than measuring does. */
import { existsSync } from 'node:fs';
import { basename } from 'node:path';
import { AppError } from '@/core/errors/app-error';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { judge } from '@/core/spec/verdict';
import { limitName } from '@/core/treatment/limit-name';
import { describeTreatment } from '@/core/treatment/treatment';
import { formatGain, formatNumber } from '@/core/units/format';
import { placeFile } from '@/workers/node/place-file';
import type { FileReport } from '@/workers/protocol';
import { EXIT, json, type Output } from './commands';
import { type Listener, type Mastered, master } from './mastering';
import { type MeasuringOptions, measureAudio, withAudio } from './measuring';
import { withPrepared } from './preparing';
import { changeLines, findingLines, verdictLines } from './print';
import type { MasterOptions } from './treatment-options';

export async function masterCommand(
  file: string,
  outputPath: string,
  asJson: boolean,
  output: Output,
  options: MeasuringOptions & { treatment: (sampleRateHz: number) => MasterOptions },
): Promise<number> {
  const { layoutId } = options;
  const fileName = basename(outputPath);
  if (existsSync(outputPath)) throw new AppError('file-exists', { fileName: outputPath });
  const temporaryPath = `${outputPath}.${process.pid}.part`;
  const { before, mastered, wanted } = await withAudio(file, async (audio) => {
    const wanted = options.treatment(audio.header.format.sampleRateHz);
    return withPrepared(audio, wanted, async (prepared) => {
      const { report: before, measurement } = await measureAudio(prepared, options);
      const paths = { path: prepared.path, historyPath: audio.path, outputPath: temporaryPath };
      const source = { ...paths, fileName, layoutId: layoutId ?? null, before, measurement };
      const listener = asJson ? SILENT : printing(output, before, wanted);
      return { before, mastered: await master(source, wanted, listener), wanted };
    });
  });
  if (!mastered) throw new AppError('nothing-to-measure', { reason: `${file} has no level that a gain could move` });
  await placeFile(temporaryPath, outputPath, fileName);
  const { spec } = wanted;
  const { gainDb, binding, shortfallLu, reduction, passes, after } = mastered;
  const verdict = judge(after.readings, after.format, spec);
  if (asJson) {
    output.print(
      json({
        file: outputPath,
        source: file,
        gainDb,
        // Nothing is ever reduced that nobody chose.
        maxGainReductionDb: reduction?.greatestDb ?? 0,
        reduction,
        bindingLimit: binding,
        shortfallLu,
        passes,
        sha256: after.sha256,
        before: before.readings,
        after: after.readings,
        findings: before.findings,
        verdict,
      }),
    );
  } else {
    output.print(`${file} → ${outputPath}`);
    output.print(`  gain ${formatGain(gainDb, 2)}${reductionText(reduction)}, measured again from the written file:`);
    for (const line of [...changeLines(before.readings, after.readings), ...verdictLines(verdict, spec)]) {
      output.print(line);
    }
    if (shortfallLu > 0) {
      output.print(`  ${stopName(binding)} stops the gain ${formatNumber(shortfallLu)} LU short of the target`);
    }
    for (const line of findingLines(before.findings)) output.print(line);
  }
  return verdict.inside ? EXIT.ok : EXIT.misses;
}

function stopName(stop: Mastered['binding']): string {
  return stop === 'asked' ? 'what was asked' : limitName(stop);
}

const SILENT: Listener = { onPlan: () => undefined, onProgress: () => undefined };

/** Prints the plan, and then what is being done, each quarter of it once. */
function printing(output: Output, before: FileReport, { treatment, limit, bitDepth }: MasterOptions): Listener {
  let last = '';
  return {
    onPlan: ({ gainDb, ceilingDbtp, stop, isOnTarget }) => {
      const limiter = ceilingDbtp === null ? null : { ...limit, ceilingDbtp };
      const steps = describeTreatment({ ...treatment, gainDb, limit: limiter }, before.format.sampleRateHz);
      output.print(`  plan: ${[...steps, `${bitDepth === 32 ? '32-bit float' : `${bitDepth} bit`}`].join(' · ')}`);
      if (!isOnTarget && stop !== 'asked') output.print(`  as far as ${stopName(stop)} lets it`);
    },
    onProgress: (doing, { fraction, timesRealTime }) => {
      const line = `  ${doing}: ${25 * Math.floor(4 * fraction)} %`;
      if (line === last) return;
      last = line;
      output.print(`${line}, ${formatNumber(timesRealTime, 0)} × real time`);
    },
  };
}

function reductionText(reduction: ReductionFigures | null): string {
  if (!reduction) return '';
  const { greatestDb, percentile95Db, shareOfTime } = reduction;
  return `, limiter up to ${formatNumber(greatestDb)} dB (95 % below ${formatNumber(percentile95Db)} dB) in ${formatNumber(100 * shareOfTime)} % of the time`;
}
