import { createHash } from 'node:crypto';
import { and, eq, sql } from 'drizzle-orm';
import { deliveredTreatment, treatedProgramme } from '@/core/delivery/compose';
import { forecastFacts } from '@/core/delivery/facts';
import { fileSize } from '@/core/delivery/file-size';
import { formatProblems, resolveFormat } from '@/core/delivery/format';
import { withRowEdges } from '@/core/delivery/row-edges';
import { AppError } from '@/core/errors/app-error';
import { NO_TAGS } from '@/core/file-formats/tags';
import { channelLayout } from '@/core/loudness/channel-layout';
import { ENGINE_VERSION } from '@/core/loudness/readings';
import { assess } from '@/core/spec/assess';
import type { Spec } from '@/core/spec/spec';
import { type LevelPlan, planLevels } from '@/core/treatment/plan-levels';
import { gainOnly, preparationOf, type Treatment } from '@/core/treatment/treatment';
import { withAnalysis } from '@/workers/node/analysis-file';
import type { ServerContext } from '../context';
import { among } from '../db/among';
import { type deliveryRows, programmes, sourceReports, sources } from '../db/schema';
import type { RowPrediction } from '../db/stored/delivery';
import { predictLevels, solveWithLimiter } from '../measure/limiting';
import { type PreparedProgramme, prepareSource } from '../measure/prepared';
import { specNamed, specsNamed } from '../specs/specs';
import { currentTreatments } from '../treatments/treatments';
import { predictMessages as messages } from './messages';

export type DeliveryRow = typeof deliveryRows.$inferSelect;

/** What a row is about: its programme, its source and its spec, as they are now. */
export interface RowFacts {
  programme: typeof programmes.$inferSelect;
  source: typeof sources.$inferSelect;
  spec: Spec;
  treatment: Treatment;
  /** Of the treatment; null where nothing was set. */
  version: { id: string; version: number } | null;
}

/** What a row is about. Throws `not-found` or `unknown-spec`. */
export function factsOf(server: ServerContext, row: DeliveryRow): RowFacts {
  const facts = factsIn(lookUp(server, [row]), row);
  if (facts) return facts;
  specNamed(server, row.specId);
  throw new AppError('not-found', { what: 'programme' });
}

/** What each of many rows is about, by its id; those whose programme or spec is gone are left out. */
export function factsOfEach(server: ServerContext, rows: readonly DeliveryRow[]): Map<string, RowFacts> {
  const known = lookUp(server, rows);
  return new Map(
    rows.flatMap((row): [string, RowFacts][] => {
      const facts = factsIn(known, row);
      return facts ? [[row.id, facts]] : [];
    }),
  );
}

/** All that rows are about, asked for together: building a statement takes longer than running it. */
function lookUp(server: ServerContext, rows: readonly DeliveryRow[]) {
  const ids = [...new Set(rows.map(({ programmeId }) => programmeId))];
  const found = server.db
    .select()
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(among(programmes.id, ids))
    .all();
  const measured = server.db
    .select({
      sha256: sourceReports.sha256,
      hasTimes: sql<number | null>`json_extract(${sourceReports.report}, '$.value.format.adm.hasTimes')`,
    })
    .from(sourceReports)
    .where(
      and(
        among(
          sourceReports.sha256,
          found.map(({ sources: { sha256 } }) => sha256),
        ),
        eq(sourceReports.engineVersion, ENGINE_VERSION),
      ),
    )
    .all();
  return {
    programmes: new Map(found.map((own) => [own.programmes.id, own])),
    versions: currentTreatments(
      server,
      found.map((own) => own.programmes),
    ),
    /** Whether object metadata have times, by source; only measuring tells. */
    adm: new Map(measured.flatMap(({ sha256, hasTimes }) => (hasTimes === null ? [] : [[sha256, hasTimes !== 0]]))),
    specs: specsNamed(server, new Set(rows.map(({ specId }) => specId))),
  };
}

function factsIn(known: ReturnType<typeof lookUp>, row: DeliveryRow): RowFacts | undefined {
  const found = known.programmes.get(row.programmeId);
  const spec = known.specs.get(row.specId);
  if (!found || !spec) return undefined;
  const { programmes: programme, sources: source } = found;
  const version = known.versions.get(programme.id);
  const treatment = version?.treatment ?? gainOnly(0);
  return {
    programme,
    source: asMeasured(source, known.adm.get(source.sha256)),
    spec,
    treatment: withRowEdges(row.trim ? { ...treatment, trim: row.trim } : treatment, row.edges),
    version: version ? { id: version.id, version: version.version } : null,
  };
}

/** A source whose format names the layout that was chosen for it, if one was, and what only measuring tells. */
function asMeasured(source: typeof sources.$inferSelect, hasTimes: boolean | undefined): typeof sources.$inferSelect {
  const { format, layoutId } = source;
  const layout = layoutId === null ? format.layout : channelLayout(format.channels, 0, layoutId).name;
  return { ...source, format: { ...format, layout, ...(hasTimes === undefined ? {} : { adm: { hasTimes } }) } };
}

/** A key of everything that a prediction is worked out from. What a file says of itself changes nothing of its sound. */
export function predictionKey({ format, levelMode }: DeliveryRow, { source, spec, treatment }: RowFacts): string {
  const { sha256, layoutId } = source;
  const all = { ENGINE_VERSION, sha256, layoutId, spec, treatment, format, levelMode };
  return createHash('sha256').update(JSON.stringify(all)).digest('hex').slice(0, 32);
}

/**
 * What a row of the sheet will be, before anything is written.
 *
 * @throws AppError `format-impossible`, `not-measured`, or `nothing-to-measure` where there is no level to move
 */
export async function predict(server: ServerContext, row: DeliveryRow): Promise<RowPrediction> {
  const { programme, source, spec, treatment } = factsOf(server, row);
  const { title, fileName } = programme;
  if (!server.sourceReport(source.sha256)) throw new AppError('not-measured', { title });
  const treated = treatedProgramme(treatment, source.format, row.format);
  const [problem] = formatProblems(row.format, treated);
  if (problem) throw new AppError('format-impossible', { problem: problem.text, nearest: problem.nearestText });
  const format = resolveFormat(row.format, treated);
  const composed = deliveredTreatment(treatment, format, source.format.sampleRateHz);
  const prepared = await prepareSource(server, source.sha256, fileName, preparationOf(composed));
  const plan = row.levelMode.kind === 'solved' ? await planOf(server, prepared, composed, spec, row.levelMode) : null;
  const levels = plan?.treatment ?? composed;
  const { readings, edges, reduction } = await predictLevels(server, prepared, levels);
  const { frames } = prepared.format;
  const facts = forecastFacts({
    readings,
    edges,
    frames,
    layout: prepared.layout,
    format,
    treatment: levels,
    tags: programme.tags ?? NO_TAGS,
    source: source.format,
  });
  return {
    spec,
    format,
    treatment: levels,
    readings,
    reduction,
    facts,
    verdict: assess(spec, facts),
    frames,
    landing: plan?.landing ?? null,
    size: format.isPassthrough ? { bytes: source.sizeBytes, isExact: false } : fileSize(format, frames, readings),
    stop: plan && plan.stop.binding !== 'target' && spec.loudness ? plan.stop : null,
  };
}

/** The levels that bring a treatment to a spec. Throws `nothing-to-measure`. */
async function planOf(
  server: ServerContext,
  prepared: PreparedProgramme,
  treatment: Treatment,
  spec: Spec,
  { maxReductionDb, marginDb }: { maxReductionDb: number; marginDb: number },
): Promise<LevelPlan> {
  const weightedPower = await withAnalysis(prepared.analysisPath, (analysis) => analysis.weightedPower());
  const plan = await planLevels(
    { ...prepared, weightedPower },
    treatment,
    spec,
    { maxReductionDb, marginDb, withoutTarget: 'only-down' },
    (aimed, allowedDb) => solveWithLimiter(server, prepared, aimed, allowedDb),
  );
  if (!plan) {
    throw new AppError('nothing-to-measure', { reason: messages.noLevel(prepared.fileName) });
  }
  return plan;
}
