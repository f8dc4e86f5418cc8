import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import { planStems, type StemsPlan } from '@/core/lineup/stems/stems';
import { plainName } from '@/core/lineup/track-name';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { type StemFile, writeStems } from '@/workers/node/write-stems';
import { stemsPdf } from '../certificates/stems-pdf';
import type { ServerContext } from '../context';
import { sources } from '../db/schema';
import type { AssemblyOutcome, StoredAssemblyOrder } from '../db/stored/assembly';
import { layoutOf } from '../measure/measure-source';
import { offsetsOf } from '../stems/stems';
import type { TaskContext } from '../tasks/runner';
import { addFile, fileSteps, openIntact } from './file-steps';

type Member = StoredAssemblyOrder['members'][number];
type Sourced = Parameters<typeof offsetsOf>[1];

/** What stored stems come to. Throws `no-mix`, `not-found`, or as `planStems`. */
export function planStemsOf(server: ServerContext, order: StoredAssemblyOrder): StemsPlan {
  const { mix } = split(order);
  const source = server.db.select().from(sources).where(eq(sources.sha256, mix.sourceSha256)).get();
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
  const opened: (Awaited<ReturnType<typeof openIntact>> & { member: Member })[] = [];
  for (const member of [mix, ...stems])
    opened.push({ ...(await openIntact(server, member.sourceSha256, member.fileName, context)), member });
  const [mixSource, ...stemSources] = opened.map(({ source, member: { fileName } }) => ({ source, fileName })) as [
    Sourced,
    ...Sourced[],
  ];
  const { offsetFrames, isTimed } = await offsetsOf(server, mixSource, stemSources);
  const files = opened.map(({ path, source, member: { title, tags } }, i): StemFile => {
    const { frames } = source.format;
    return { path, title, tags, frames, offsetFrames: offsetFrames[i - 1] ?? 0 };
  });
  const [mixFile, ...stemFiles] = files as [StemFile, ...StemFile[]];
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
  const sheet = await addFile(temporary, `${plainName(name)}.pdf`, certificate, 'certificate');
  return { ...written, files: [...written.files, sheet], format: plan.format, rows: [], cd: null, sounds: null };
}

function split({ members, mixId, name }: StoredAssemblyOrder): { mix: Member; stems: Member[] } {
  const mix = members.find(({ programmeId }) => programmeId === mixId);
  if (!mix) throw new AppError('no-mix', { name });
  return { mix, stems: members.filter((member) => member !== mix) };
}
