import { mkdir, rename } from 'node:fs/promises';
import { join } from 'node:path';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { assess, levelVerdict } from '@/core/spec/assess';
import type { Verdict } from '@/core/spec/assessment';
import { factsOfFile } from '@/core/spec/facts';
import type { Spec } from '@/core/spec/spec';
import { withJoinedFiles } from '@/workers/node/joined-files';
import type { FileReport } from '@/workers/protocol';
import { filmOutcome, measureTracks } from '../assemblies/write-film';
import type { ServerContext } from '../context';
import type { WrittenSound } from '../db/stored/assembly';
import { readBack } from '../deliveries/read-back';
import { newId } from '../ids';
import { layoutOf } from '../measure/measure-source';
import { quietly } from '../tasks/runner';
import type { Manifest } from './archive-manifest';
import type { WrittenRecord } from './archive-record';
import { extract, type OpenZip } from './job-zip';

/**
 * Brings in records, stems and books that were written: every file is held to its hash, and the whole is measured again.
 *
 * @returns the manifest with what was read of them
 * @throws AppError `not-a-job`, or of a file that can't be read
 */
export async function bringRecords(
  server: ServerContext,
  zip: OpenZip,
  manifest: Manifest,
  jobId: string,
  fileName: string,
): Promise<Manifest> {
  const lineUps: Manifest['lineUps'] = [];
  for (const { records, ...lineUp } of manifest.lineUps) {
    const brought: WrittenRecord[] = [];
    for (const record of records) brought.push(await bringRecord(server, zip, record, jobId, fileName));
    lineUps.push({ ...lineUp, records: brought });
  }
  return { ...manifest, lineUps };
}

async function bringRecord(
  server: ServerContext,
  zip: OpenZip,
  record: WrittenRecord,
  jobId: string,
  fileName: string,
): Promise<WrittenRecord> {
  const { folderName, outcome, order } = record;
  const temporary = server.folder.recordPart(jobId, newId());
  await mkdir(temporary, { recursive: true });
  for (const file of outcome.files) {
    const entry = `records/${folderName}/${file.fileName}`;
    await extract(zip, entry, join(temporary, file.fileName), file.sha256, fileName);
  }
  if (outcome.sounds) {
    const sounds = await readSounds(server, temporary, record);
    await rename(temporary, server.folder.record(jobId, folderName));
    return { ...record, outcome: { ...outcome, ...filmOutcome(outcome.format, sounds) } };
  }
  const report = await readWhole(server, temporary, record);
  await rename(temporary, server.folder.record(jobId, folderName));
  return { ...record, outcome: { ...outcome, report, verdict: readVerdict(order.spec, report, outcome.verdict) } };
}

/** Of its levels nothing is believed; all else that was verified when it was written is in its hashes. */
function readVerdict(spec: Spec, report: FileReport, stated: Verdict): Verdict {
  const levels = levelVerdict(assess(spec, factsOfFile(report)));
  return levels.inside || !stated.inside ? stated : levels;
}

/** Measures each sound of a film. */
async function readSounds(
  server: ServerContext,
  folder: string,
  { order, outcome: { files, sounds } }: WrittenRecord,
): Promise<WrittenSound[]> {
  const film = files.find(({ role }) => role === 'film');
  const read: WrittenSound[] = [];
  for (const [i, sound] of (sounds ?? []).entries()) {
    const { fileName = '', sha256 = '', sizeBytes = 0 } = film ?? {};
    const { tracks, spec, report: stated, verdict } = sound;
    const layoutId = writtenLayoutId(stated.format.channels, layoutOf(server, order.members[i]?.sourceSha256 ?? ''));
    const report = await measureTracks(server, join(folder, fileName), { fileName, tracks, layoutId }, quietly());
    read.push({
      ...sound,
      report: { ...report, sha256, sizeBytes },
      verdict: readVerdict(spec, report, verdict),
    });
  }
  return read;
}

/** Measures what a record comes to: its one file, the master of its stems, or its single files joined. */
async function readWhole(
  server: ServerContext,
  folder: string,
  { order, outcome }: WrittenRecord,
): Promise<FileReport> {
  const audio = outcome.files.filter(({ role }) => role === 'audio');
  const whole = audio.find(({ track }) => track === null);
  const { format, report: stated } = outcome;
  const layoutId = writtenLayoutId(format.channels, layoutOf(server, order.members[0]?.sourceSha256 ?? ''));
  if (whole) {
    const { fileName, sha256 } = whole;
    const { frames } = stated.format;
    return readBack(server, [join(folder, fileName)], { fileName, sha256, layoutId, frames }, quietly());
  }
  const named = { fileName: order.name, sha256: stated.sha256 ?? '', layoutId };
  const { readings, edges } = await withJoinedFiles(
    audio.map(({ fileName }) => join(folder, fileName)),
    folder,
    (parts, frames, outputPath) => server.pool.run({ kind: 'join', parts, frames, outputPath }, quietly()),
    (joinedPath) => readBack(server, [joinedPath], named, quietly()),
  );
  // It is no file: what its files are was read when they were written.
  return { ...stated, readings, ...(edges ? { edges } : {}) };
}
