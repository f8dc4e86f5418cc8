import { rm } from 'node:fs/promises';
import { eq } from 'drizzle-orm';
import { certifiedCurve } from '@/core/delivery/certificate';
import type { Cover } from '@/core/delivery/cover';
import type { ResolvedFormat } from '@/core/delivery/format';
import { statedStart } from '@/core/delivery/start-time-code';
import { AppError } from '@/core/errors/app-error';
import type { Tags } from '@/core/file-formats/tags';
import { writtenLayoutId } from '@/core/loudness/channel-layout';
import { loudnessCurve, SHORT_TERM_BINS } from '@/core/loudness/series';
import type { Spec } from '@/core/spec/spec';
import type { Landing } from '@/core/treatment/plan-levels';
import { preparationOf, type Treatment } from '@/core/treatment/treatment';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { Marker } from '@/formats/metadata';
import { withAnalysis } from '@/workers/node/analysis-file';
import { deliver } from '@/workers/node/deliver-file';
import type { Delivered, DeliverySteps } from '@/workers/node/delivery-order';
import { deliveryLeftovers } from '@/workers/node/delivery-paths';
import type { ServerContext } from '../context';
import { markers, type programmes, type sources } from '../db/schema';
import { openAudio } from '../measure/audio';
import { layoutOf } from '../measure/measure-source';
import { prepareSource, whileHeld } from '../measure/prepared';
import { checkSource, sourcePath } from '../take-in/reference';
import type { TaskContext } from '../tasks/runner';

/** A programme, and what is to be written of it. */
interface ProgrammeOrder {
  programme: typeof programmes.$inferSelect;
  source: typeof sources.$inferSelect;
  /** Where it stands until whoever calls gives it its name, or takes it away: see `deliveryLeftovers`. */
  temporaryPath: string;
  /** What a person calls the file. */
  fileName: string;
  format: ResolvedFormat;
  spec: Spec;
  tags: Tags;
  treatment: Treatment;
  landing: Landing | null;
  cover: Cover | null;
}

/**
 * Writes a file of a programme under a temporary name, in threads, and measures it from there.
 *
 * @throws AppError as `deliver`, or where the source is not what was taken in
 */
export async function deliverProgramme(
  server: ServerContext,
  order: ProgrammeOrder,
  context: TaskContext,
): Promise<Delivered & { curve: ReturnType<typeof certifiedCurve> }> {
  const { folder, pool, clock } = server;
  const { programme, source, temporaryPath, fileName, format, spec, tags, treatment, landing, cover } = order;
  const marks = marksOf(server, programme.id);
  const analysisPath = `${temporaryPath}.analysis.part`;
  const layoutId = layoutOf(server, source.sha256);
  const written = writtenLayoutId(format.channels, layoutId);
  const audio = await openAudio(server, source.sha256, programme.fileName, context);
  const { signal, onProgress } = audio.context;
  // What is prepared is kept: whoever cancels need not wait for it, and whoever tries again has it.
  const intact = checkSource(server, source, programme.fileName);
  intact.catch(() => undefined);
  const prepared = await until(
    signal,
    prepareSource(server, source.sha256, programme.fileName, preparationOf(treatment)),
  );
  const opened = await prepared.open();
  for (const path of deliveryLeftovers(temporaryPath)) await rm(path, { force: true });
  const steps: DeliverySteps = {
    render: (output, levels, report) =>
      pool.run(
        {
          kind: 'render',
          source: opened,
          historyPath: audio.path,
          outputPath: output.path,
          fileName,
          layoutId,
          treatment: levels,
          container: output.container,
          bitDepth: output.bitDepth,
          isDitherSilenced: output.isDitherSilenced,
          isForCoder: output.isForCoder,
          withoutAdm: output.withoutAdm,
          tags,
          markers: marks,
          start: programme.timeCode ? statedStart(programme.timeCode, source.format.sampleRateHz) : undefined,
          writtenAtMs: clock.now(),
          limitingPath: levels.limit ? prepared.limitingPath(levels.limit) : undefined,
        },
        { signal, onProgress: report },
      ),
    measure: (path, origin, report) =>
      pool.run(
        {
          // Its hash is made of what is there in the end.
          kind: 'measure',
          path,
          fileName,
          sha256: '',
          layoutId: written,
          origin,
          treatedBefore: null,
          analysisPath,
        },
        { signal, onProgress: report },
      ),
  };
  const kept = format.isPassthrough
    ? {
        path: await sourcePath(server, source, programme.fileName),
        samplesPath: audio.path,
        frames: source.format.frames,
      }
    : undefined;
  try {
    const delivered = await whileHeld(prepared, () =>
      deliver(
        {
          temporaryPath,
          fileName,
          format,
          spec,
          tags,
          treatment,
          landing,
          layoutId: written,
          cover: cover && { path: folder.cover(cover.sha256), mediaType: cover.mediaType },
          kept,
        },
        steps,
        { signal, onProgress },
      ),
    );
    // Hashed while it was worked on: nothing is handed over that was made of anything else than what was taken in.
    await intact;
    return { ...delivered, curve: await curveOf(analysisPath) };
  } finally {
    await rm(analysisPath, { force: true });
  }
}

/** Short-term loudness of what was measured last. */
async function curveOf(analysisPath: string) {
  const power = await withAnalysis(analysisPath, (analysis) => analysis.weightedPower());
  return certifiedCurve(loudnessCurve(power, SHORT_TERM_BINS), 1 / BINS_PER_SECOND);
}

/** What a person has marked in a programme, as a file carries it. */
function marksOf({ db }: ServerContext, programmeId: string): Marker[] {
  return db
    .select()
    .from(markers)
    .where(eq(markers.programmeId, programmeId))
    .all()
    .map(({ startFrame, endFrame, name }) => ({
      frame: startFrame,
      label: name,
      lengthFrames: endFrame === null ? 0 : endFrame - startFrame,
    }));
}

/** Waits for work that goes on by itself, but no longer than anybody wants it. */
async function until<T>(signal: AbortSignal, work: Promise<T>): Promise<T> {
  work.catch(() => undefined);
  if (signal.aborted) throw new AppError('cancelled', {});
  let leave = () => {};
  const cancelled = new Promise<never>((_, reject) => {
    const cancel = () => reject(new AppError('cancelled', {}));
    signal.addEventListener('abort', cancel);
    leave = () => signal.removeEventListener('abort', cancel);
  });
  return Promise.race([work, cancelled]).finally(leave);
}
