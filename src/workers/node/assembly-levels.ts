import { writtenFacts } from '@/core/delivery/facts';
import type { ResolvedFormat } from '@/core/delivery/format';
import { type Assembly, trackRange } from '@/core/lineup/assembly';
import type { TrackLevels } from '@/core/lineup/track-sheet';
import type { Series } from '@/core/loudness/series';
import { readSpan } from '@/core/loudness/span';
import type { Facts } from '@/core/spec/facts';
import type { FileReport } from '../protocol';
import type { AssemblyOrder } from './assembly-order';
import type { Delivered } from './delivery-order';

/** What is known of a file that was made of a whole. */
export function factsOf(
  { report, treatment, expectedFrames }: Delivered,
  format: ResolvedFormat,
  { assembly }: AssemblyOrder,
): Facts {
  const { sampleRateHz, frames } = assembly;
  const source = { sampleRateHz, frames, bitDepth: 32, sampleFormat: 'float' as const };
  return writtenFacts(report, { format, treatment, source, expectedFrames });
}

/** What a coder makes of peaks is read from every file. */
export function withPeaksOf(report: FileReport, files: readonly FileReport[]): FileReport {
  const most = (key: 'truePeakDbtp' | 'samplePeakDbfs') => {
    const levels = files.flatMap(({ readings }) => readings[key] ?? []);
    return levels.length > 0 ? Math.max(...levels) : null;
  };
  const { readings } = report;
  return {
    ...report,
    readings: { ...readings, truePeakDbtp: most('truePeakDbtp'), samplePeakDbfs: most('samplePeakDbfs') },
  };
}

/** Of each track within a whole that was measured. */
export function trackLevels(assembly: Assembly, series: Series, { readings }: FileReport): TrackLevels[] {
  return assembly.tracks.map((_, i) =>
    levelsOf(readSpan(series, assembly.sampleRateHz, trackRange(assembly, i)), readings.integratedLufs),
  );
}

export function levelsOf(
  { integratedLufs, truePeakDbtp }: Pick<TrackLevels, 'integratedLufs' | 'truePeakDbtp'>,
  wholeLufs: number | null,
): TrackLevels {
  const fromWholeLu = integratedLufs === null || wholeLufs === null ? null : integratedLufs - wholeLufs;
  return { integratedLufs, truePeakDbtp, fromWholeLu };
}
