import { eq } from 'drizzle-orm';
import { AppError } from '@/core/errors/app-error';
import type { ReductionFigures } from '@/core/limiter/reduction';
import { type Edges, edgesOf } from '@/core/loudness/edges';
import type { Readings } from '@/core/loudness/readings';
import type { Spec } from '@/core/spec/spec';
import { forecastLevels, gainedPower } from '@/core/treatment/forecast';
import type { LimitedCurves, LimitedReadings, Limiting } from '@/core/treatment/limited-forecast';
import type { LevelOptions, LimitedSolution } from '@/core/treatment/limited-solver';
import { LINKED } from '@/core/treatment/steps/limit';
import { fadesOf, isLevelOnly, type Preparation, preparationOf, type Treatment } from '@/core/treatment/treatment';
import { withAnalysis } from '@/workers/node/analysis-file';
import type { LimitJob, LimitReport, ReductionStretch } from '@/workers/protocol';
import type { ServerContext } from '../context';
import { programmes } from '../db/schema';
import { specNamed } from '../specs/specs';
import { quietly } from '../tasks/runner';
import { currentTreatment, keepForecast } from '../treatments/treatments';
import { type PreparedProgramme, prepareSource } from './prepared';

/** What can be done for a programme, as it is prepared, where the ceiling stops its gain; null where it has no level. */
export async function limiterOptions(
  server: ServerContext,
  programmeId: string,
  preparation: Preparation,
  specId: string,
): Promise<LevelOptions | null> {
  const prepared = await preparedProgramme(server, programmeId, preparation);
  return (await ask(server, prepared, specNamed(server, specId))).options ?? null;
}

/** What a programme would read after a gain and a limiter, and what the limiter would do along time. */
export async function limitedReadings(
  server: ServerContext,
  programmeId: string,
  preparation: Preparation,
  limiting: Limiting,
): Promise<LimitedReadings & LimitedCurves> {
  return limitedSource(server, await preparedProgramme(server, programmeId, preparation), limiting);
}

/** What a source reads after every step of a treatment. */
export async function predictTreatment(
  server: ServerContext,
  sha256: string,
  fileName: string,
  treatment: Treatment,
): Promise<Readings> {
  const prepared = await prepareSource(server, sha256, fileName, preparationOf(treatment));
  return (await predictLevels(server, prepared, treatment)).readings;
}

/** What a prepared programme reads after the steps from the gain on, and what a limiter among them takes. */
export async function predictLevels(
  server: ServerContext,
  prepared: PreparedProgramme,
  treatment: Treatment,
): Promise<{
  readings: Readings;
  /** Weighted mean square of every complete 100 ms, behind everything. */
  weightedPower: Float32Array;
  edges: Edges;
  reduction: ReductionFigures | null;
}> {
  const { gainDb, limit } = treatment;
  const weightedPower = await withAnalysis(prepared.analysisPath, (analysis) => analysis.weightedPower());
  const limited =
    limit &&
    (await limitedSource(server, prepared, {
      gainDb,
      ceilingDbtp: limit.ceilingDbtp,
      lookAheadMs: limit.lookAheadMs,
      releaseMs: limit.releaseMs,
    }));
  const { readings, curve } = forecastLevels({ ...prepared, weightedPower }, treatment, fadesOf(treatment), limited);
  const treated = gainedPower(curve);
  return { readings, weightedPower: treated, edges: edgesOf(treated), reduction: limited?.reduction ?? null };
}

/** What a limiter reaches of a spec within a reduction; null where there is nothing that it could help with. */
export async function solveWithLimiter(
  server: ServerContext,
  prepared: PreparedProgramme,
  spec: Spec,
  maxReductionDb: number,
): Promise<LimitedSolution | null> {
  return (await ask(server, prepared, { spec, maxReductionDb })).solution ?? null;
}

/** Forecasts a programme's treatment and keeps that with it, for wherever it is shown at a glance. */
export async function forecastCurrent(server: ServerContext, programmeId: string): Promise<void> {
  const current = currentTreatment(server, programmeId);
  if (!current || isAtAGlance(current.treatment)) return;
  const { sourceSha256, fileName } = programmeOf(server, programmeId);
  const predicted = await predictTreatment(server, sourceSha256, fileName, current.treatment);
  keepForecast(server, current, predicted);
}

/** A stretch of the gain reduction curve that a treatment's limiter will be rendered with; null where it has none. */
export async function reductionStretch(
  server: ServerContext,
  programmeId: string,
  treatment: Treatment,
  stretch: { startFrame: number; frames: number },
): Promise<ReductionStretch | null> {
  const { limit, gainDb } = treatment;
  if (!limit) return null;
  const prepared = await preparedProgramme(server, programmeId, preparationOf(treatment));
  const { fileName, layoutId } = prepared;
  const source = await prepared.open();
  const limitingPath = prepared.limitingPath(limit);
  const job = { kind: 'reduction', source, fileName, layoutId, limitingPath, gainDb, limit, ...stretch } as const;
  return inTurn(limitingPath, () => server.listening.run(job, quietly()));
}

/** A programme as a treatment prepares it. */
export async function preparedProgramme(
  server: ServerContext,
  programmeId: string,
  preparation: Preparation,
): Promise<PreparedProgramme> {
  const { sourceSha256, fileName } = programmeOf(server, programmeId);
  return prepareSource(server, sourceSha256, fileName, preparation);
}

function isAtAGlance(treatment: Treatment): boolean {
  return !treatment.limit && !treatment.fadeIn && !treatment.fadeOut && isLevelOnly(treatment);
}

/** Throws `not-found`. */
export function programmeOf({ db }: ServerContext, programmeId: string) {
  const programme = db.select().from(programmes).where(eq(programmes.id, programmeId)).get();
  if (!programme) throw new AppError('not-found', { what: 'programme' });
  return programme;
}

async function limitedSource(server: ServerContext, prepared: PreparedProgramme, limiting: Limiting) {
  return (await ask(server, prepared, limiting)).limited as LimitedReadings & LimitedCurves;
}

async function ask(server: ServerContext, prepared: PreparedProgramme, what: LimitJob['ask']): Promise<LimitReport> {
  const { fileName, readings, format, layoutId, analysisPath } = prepared;
  const source = await prepared.open();
  const { sampleRateHz, frames, channels } = format;
  const limitingPath = prepared.limitingPath(LINKED);
  const weightedPower = await withAnalysis(analysisPath, (analysis) => analysis.weightedPower());
  const programme = { readings, weightedPower, sampleRateHz, samples: frames * channels };
  const job = { kind: 'limit', source, fileName, layoutId, limitingPath, programme, ask: what } as const;
  return inTurn(limitingPath, () => server.pool.run(job, quietly()));
}

/** When what was asked last of a source is answered. */
const asked = new Map<string, Promise<void>>();

/** Asks of one source come one after another, so that it is looked through for a limiter once. */
export async function inTurn<T>(limitingPath: string, work: () => Promise<T>): Promise<T> {
  const answered = (asked.get(limitingPath) ?? Promise.resolve()).then(work);
  const settled = answered.then(
    () => undefined,
    () => undefined,
  );
  asked.set(limitingPath, settled);
  void settled.then(() => asked.get(limitingPath) === settled && asked.delete(limitingPath));
  return answered;
}
