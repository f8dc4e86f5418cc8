import { type RecordPlan, trackTags } from '@/core/lineup/record';
import { plainName } from '@/core/lineup/track-name';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { levelVerdict } from '@/core/spec/assess';
import { preparationOf } from '@/core/treatment/treatment';
import type { AssembledFile, AssemblySteps, TrackFile } from '@/workers/node/assembly-order';
import { writeAssembly } from '@/workers/node/write-assembly';
import { trackSheetPdf } from '../certificates/track-sheet-pdf';
import type { ServerContext } from '../context';
import type { AssemblyOutcome, StoredAssemblyOrder } from '../db/stored/assembly';
import { layoutOf } from '../measure/measure-source';
import { prepareSource, whileHeld } from '../measure/prepared';
import type { TaskContext } from '../tasks/runner';
import { cdOf, planOf, trackTexts } from './assemblies';
import { addFile, fileSteps, openIntact } from './file-steps';

/** What a folder holds already: a file of each track, and what else there is. */
interface Present {
  tracks: readonly (AssembledFile & TrackFile)[];
  others: readonly AssembledFile[];
}

/**
 * Writes a record into a folder, with its track sheet.
 *
 * @param present files that the track sheet names too; the spec is theirs, so only levels of the whole are assessed
 * @throws AppError as `writeAssembly`
 */
export async function writeRecordInto(
  server: ServerContext,
  order: StoredAssemblyOrder,
  temporary: string,
  context: TaskContext,
  present?: Present,
): Promise<AssemblyOutcome> {
  const plan = planOf(server, order);
  const { format, assembly } = plan;
  const { name, isBook, form, spec, record, cover } = order;
  const { artist, catalogNumber, pregapSeconds, limit } = record;
  const said = { title: name, artist, catalogNumber, pregapSeconds, tracks: trackTexts(order) };
  const written = await writeAssembly(
    {
      folder: temporary,
      stem: plainName(name),
      form: form === 'single' ? 'single' : 'continuous',
      isBook,
      ...(present ? { trackFiles: present.tracks } : {}),
      assembly,
      record: said,
      trackTags: order.members.map(({ tags }, i) => trackTags(said, i, tags)),
      format,
      spec,
      limit,
      cover: cover && { path: server.folder.cover(cover.sha256), mediaType: cover.mediaType },
      layoutId: writtenLayoutId(format.channels, layoutOfMembers(server, order.members)),
    },
    stepsOf(server, order, plan.treatments, temporary, context),
    context,
  );
  const cd = cdOf(order, plan);
  const { report, rows, reduction } = written;
  const verdict = present ? levelVerdict(written.verdict) : written.verdict;
  const audio = present
    ? [...present.tracks.map(({ readings: _, ...file }): AssembledFile => file), ...present.others, ...written.files]
    : written.files;
  const writtenAtMs = server.clock.now();
  const sheet = await trackSheetPdf({ ...written, files: audio, verdict, cd, order, plan, writtenAtMs });
  const files = [...audio, await addFile(temporary, `${plainName(name)}.pdf`, sheet, 'track-sheet')];
  return { format, files, report, verdict, rows, reduction, cd, residual: null, sounds: null };
}

/** What is chosen by hand for the first holds for all: they have the same channels. */
function layoutOfMembers(server: ServerContext, [first]: StoredAssemblyOrder['members']): string | null {
  return first ? layoutOf(server, first.sourceSha256) : null;
}

function stepsOf(
  server: ServerContext,
  { members }: StoredAssemblyOrder,
  treatments: RecordPlan['treatments'],
  temporary: string,
  context: TaskContext,
): AssemblySteps {
  const { pool } = server;
  const { signal } = context;
  return {
    ...fileSteps(server, temporary, layoutOfMembers(server, members), context),
    async renderMember(index, outputPath, onProgress) {
      const { sourceSha256, fileName } = members[index] as StoredAssemblyOrder['members'][number];
      const treatment = treatments[index] as RecordPlan['treatments'][number];
      const { path, intact } = await openIntact(server, sourceSha256, fileName, context);
      const prepared = await prepareSource(server, sourceSha256, fileName, preparationOf(treatment));
      const opened = await prepared.open();
      const { limit } = treatment;
      const report = await whileHeld(prepared, () =>
        pool.run(
          {
            kind: 'render',
            source: opened,
            historyPath: path,
            outputPath,
            fileName,
            layoutId: layoutOf(server, sourceSha256),
            treatment,
            bitDepth: 32,
            limitingPath: limit ? prepared.limitingPath(limit) : undefined,
          },
          { signal, onProgress },
        ),
      );
      await intact;
      return report;
    },
  };
}
