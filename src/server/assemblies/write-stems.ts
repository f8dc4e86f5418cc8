import { AppError } from '@/core/errors/app-error';
import { planStems, type StemsPlan } from '@/core/lineup/stems/stems';
import { plainName } from '@/core/lineup/track-name';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { type StemFile, writeStems } from '@/workers/node/write-stems';
import { stemsPdf } from '../certificates/stems-pdf';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { sources } from '../db/schema';
import type { AssemblyOutcome, StoredAssemblyOrder } from '../db/stored/assembly';
import { layoutOf } from '../measure/measure-source';
import { offsetsOf } from '../stems/stems';
import type { TaskContext } from '../tasks/runner';
import { addFile, fileSteps, openIntact } from './file-steps';

type Member = StoredAssemblyOrder['members'][number];

/** What stored stems come to. Throws `no-mix`, `not-found`, or as `planStems`. */
export function planStemsOf(server: ServerContext, order: StoredAssemblyOrder): StemsPlan {
  const { mix } = split(order);
  const source = server.db
    .select()
    .from(sources)
    .where(among(sources.sha256, [mix.sourceSha256]))
    .get();
  if (!source) throw new AppError('not-found', { what: 'source' });
  return planStems(mix.treatment, source.format, order.format);
}

/** Writes stems and their master, with the certificate of what they leave. Throws as `writeStems`. */
export async function writeStemsInto(
  server: ServerContext,
  order: StoredAssemblyOrder,
  temporary: string,
  context: TaskContext,
): Promise<AssemblyOutcome> {
  const { name, spec } = order;
  const { mix, stems } = split(order);
  const plan = planStemsOf(server, order);
  const members = [mix, ...stems];
  const rows = new Map(
    server.db
      .select()
      .from(sources)
      .where(
        among(
          sources.sha256,
          members.map(({ sourceSha256 }) => sourceSha256),
        ),
      )
      .all()
      .map((row) => [row.sha256, row]),
  );
  const sourced = members.map(({ sourceSha256, fileName }) => {
    const source = rows.get(sourceSha256);
    if (!source) throw new AppError('not-found', { what: 'source' });
    return { fileName, source };
  });
  const [mixSource, ...stemSources] = sourced as [(typeof sourced)[number], ...typeof sourced];
  const { offsetFrames, isTimed } = await offsetsOf(server, mixSource, stemSources);
  const opened: { file: StemFile; intact: Promise<void> }[] = [];
  for (const [i, { sourceSha256, fileName, title, tags }] of members.entries()) {
    const { path, intact } = await openIntact(server, sourceSha256, fileName, context);
    const { frames } = (sourced[i] as (typeof sourced)[number]).source.format;
    opened.push({ file: { path, title, tags, frames, offsetFrames: offsetFrames[i - 1] ?? 0 }, intact });
  }
  const [mixFile, ...stemFiles] = opened.map(({ file }) => file) as [StemFile, ...StemFile[]];
  const { format } = mixSource.source;
  const layoutId = writtenLayoutId(plan.format.channels, layoutOf(server, mix.sourceSha256));
  const { pool } = server;
  const written = await writeStems(
    { ...plan, folder: temporary, name, spec, source: format, mix: mixFile, stems: stemFiles, layoutId },
    {
      ...fileSteps(server, temporary, layoutId, context),
      findTone: (path, steps) => pool.run({ kind: 'tone', path, fileName: mix.fileName, steps }, context),
      compare: (master, own, toleranceDb) => pool.run({ kind: 'null', mix: master, stems: own, toleranceDb }, context),
    },
    context,
  );
  await Promise.all(opened.map(({ intact }) => intact));
  const certificate = await stemsPdf({ ...written, order, plan, isTimed, writtenAtMs: server.clock.now() });
  const files = [...written.files, await addFile(temporary, `${plainName(name)}.pdf`, certificate, 'certificate')];
  return { ...written, files, format: plan.format, rows: [], cd: null };
}

function split({ members, mixId, name }: StoredAssemblyOrder): { mix: Member; stems: Member[] } {
  const mix = members.find(({ programmeId }) => programmeId === mixId);
  if (!mix) throw new AppError('no-mix', { name });
  return { mix, stems: members.filter((member) => member !== mix) };
}
