import { slug } from '@/core/delivery/file-name';
import { type NamedReading, READING_NAMES } from '@/core/loudness/reading-names';
import { csvOf } from '@/formats/csv';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { programmes } from '../db/schema';
import { jobOf } from './jobs';
import { readingsCsvMessages as messages } from './messages';
import { programmeIdsOf } from './programme-list';
import { programmesWhere, reportsOf } from './programme-view';

const LISTED = [
  'integratedLufs',
  'loudnessRangeLu',
  'maxMomentaryLufs',
  'maxShortTermLufs',
  'truePeakDbtp',
  'samplePeakDbfs',
  'peakToLoudnessLu',
  'rmsDbfs',
  'noiseFloorDbfs',
] as const satisfies readonly NamedReading[];

/** The readings of every source of a job, as they came in, as CSV. Of what is not measured yet the cells are empty. Throws `not-found`. */
export function readingsCsv(server: ServerContext, jobId: string): { fileName: string; text: string } {
  const { name } = jobOf(server, jobId);
  const ids = programmeIdsOf(server, jobId);
  const rows = new Map(programmesWhere(server, among(programmes.id, ids)).map((row) => [row.programmes.id, row]));
  const reports = reportsOf(
    server,
    [...rows.values()].map((row) => row.programmes.sourceSha256),
  );
  const names = LISTED.map((key) => `${READING_NAMES[key].name} (${READING_NAMES[key].unit})`);
  const text = csvOf(
    [...messages.columns, ...names, messages.hash],
    ids.flatMap((id) => {
      const row = rows.get(id);
      if (!row) return [];
      const { title, fileName, sourceSha256 } = row.programmes;
      const report = reports.get(sourceSha256);
      const { sampleRateHz, bitDepth, channels, layout, durationSeconds } = report?.format ?? row.sources.format;
      const level = (value: number | null | undefined) => value?.toFixed(2) ?? null;
      return [
        [
          ...[title, fileName, Number(durationSeconds.toFixed(3)), sampleRateHz, bitDepth, channels, layout],
          ...LISTED.map((key) => level(report?.readings[key])),
          sourceSha256,
        ],
      ];
    }),
  );
  return { fileName: `${slug(name)}_readings.csv`, text };
}
