import { createHash } from 'node:crypto';
import { eq } from 'drizzle-orm';
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
import { specLoudness } from '@/core/spec/requirements/loudness';
import type { Spec } from '@/core/spec/spec';
import { forecastLevels, gainedPower } from '@/core/treatment/forecast';
import { LEAST_LU_PER_DB } from '@/core/treatment/limited-solver';
import { gainToCeiling, solveGain } from '@/core/treatment/solver';
import { roundGain } from '@/core/treatment/steps/gain';
import { USUAL_LIMITER } from '@/core/treatment/steps/limit';
import { fadesOf, gainOnly, preparationOf, type Treatment } from '@/core/treatment/treatment';
import { withAnalysis } from '@/workers/node/analysis-file';
import type { Landing } from '@/workers/node/deliver-file';
import type { ServerContext } from '../context';
import { type deliveryRows, programmes, type RowPrediction, sources } from '../db/schema';
import { predictLevels, solveWithLimiter } from '../measure/limiting';
import { type PreparedProgramme, prepareSource } from '../measure/prepared';
import { specNamed } from '../specs/specs';
import { currentTreatment } from '../treatments/treatments';

export type DeliveryRow = typeof deliveryRows.$inferSelect;

/** What a row is about: its programme, its source and its spec, as they are now. Throws `not-found` or `unknown-spec`. */
export function factsOf(server: ServerContext, row: DeliveryRow) {
  const found = server.db
    .select()
    .from(programmes)
    .innerJoin(sources, eq(sources.sha256, programmes.sourceSha256))
    .where(eq(programmes.id, row.programmeId))
    .get();
  if (!found) throw new AppError('not-found', { what: 'programme' });
  const { programmes: programme, sources: source } = found;
  const treatment = currentTreatment(server, programme.id)?.treatment ?? gainOnly(0);
  const spec = specNamed(server, row.specId);
  return {
    programme,
    source: asMeasured(server, source),
    spec,
    treatment: withRowEdges(row.trim ? { ...treatment, trim: row.trim } : treatment, row.edges),
  };
}

/** A source whose format names the layout that was chosen for it, if one was, and what only measuring tells. */
function asMeasured(server: ServerContext, source: typeof sources.$inferSelect): typeof sources.$inferSelect {
  const { format, layoutId, sha256 } = source;
  const layout = layoutId === null ? format.layout : channelLayout(format.channels, 0, layoutId).name;
  const adm = server.sourceReport(sha256)?.format.adm;
  return { ...source, format: { ...format, layout, ...(adm ? { adm } : {}) } };
}

/** A key of everything that a prediction is worked out from. What a file says of itself changes nothing of its sound. */
export function predictionKey(server: ServerContext, row: DeliveryRow): string {
  const { source, spec, treatment } = factsOf(server, row);
  const { format, levelMode } = row;
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
  const solved = row.levelMode.kind === 'solved' ? await solve(server, prepared, composed, spec, row.levelMode) : null;
  const levels = solved?.treatment ?? composed;
  const { readings, edges, reduction } = await predictLevels(server, prepared, levels);
  const { frames } = prepared.format;
  const facts = forecastFacts({
    ...{ readings, edges, frames, layout: prepared.layout, format, treatment: levels },
    tags: programme.tags ?? NO_TAGS,
    source: source.format,
  });
  return {
    ...{ spec, format, treatment: levels, readings, reduction, facts, verdict: assess(spec, facts), frames },
    landing: solved?.landing ?? null,
    size: format.isPassthrough ? { bytes: source.sizeBytes, isExact: false } : fileSize(format, frames, readings),
    stop: solved?.stop ?? null,
  };
}

interface Solved {
  treatment: Treatment;
  landing: Landing;
  stop: RowPrediction['stop'];
}

/** The levels that bring a treatment to a spec: by gain alone, or with a limiter within what is allowed. */
async function solve(
  server: ServerContext,
  prepared: PreparedProgramme,
  treatment: Treatment,
  spec: Spec,
  { maxReductionDb, marginDb }: { maxReductionDb: number; marginDb: number },
): Promise<Solved> {
  const aimed = { ...spec, peak: { ...spec.peak, ceiling: spec.peak.ceiling - marginDb } };
  const weightedPower = await withAnalysis(prepared.analysisPath, (analysis) => analysis.weightedPower());
  // Output gain and fades come behind the gain: their forecast stands in for the programme, and the gain is found for that.
  const ungained = { ...treatment, gainDb: 0 };
  const { readings: faded, curve } = forecastLevels({ ...prepared, weightedPower }, ungained, fadesOf(treatment), null);
  const power = gainedPower(curve);
  const plain = solveGain(faded, power, aimed);
  const toCeiling = gainToCeiling(faded, aimed);
  if (!plain || toCeiling === null) {
    throw new AppError('nothing-to-measure', { reason: `${prepared.fileName} has no level that a gain could move` });
  }
  // Something with no loudness to reach is only ever turned down.
  const gainDb = spec.loudness ? plain.gainDb : Math.min(0, plain.gainDb);
  const byGain: Solved = {
    treatment: { ...treatment, gainDb, limit: null },
    landing: {
      ...{ mostGainDb: plain.binding === 'target' ? toCeiling : gainDb, luPerDb: 1 },
      mayLimitDb: plain.binding === 'target' ? maxReductionDb : 0,
    },
    stop: plain.binding === 'target' || !spec.loudness ? null : plain,
  };
  if (maxReductionDb === 0 || plain.binding !== 'ceiling' || !spec.loudness) return byGain;
  const limited = await solveWithLimiter(server, prepared, aimed, maxReductionDb);
  if (!limited) return byGain;
  const { ceilingDbtp, luPerDb, binding, shortfallLu, mostGainDb } = limited;
  const lostLu = lossOf(prepared.readings, faded, spec);
  return {
    treatment: {
      ...treatment,
      gainDb: roundGain(Math.min(mostGainDb, limited.gainDb + lostLu), 'down'),
      limit: { ...USUAL_LIMITER, ...treatment.limit, ceilingDbtp },
    },
    landing: { mostGainDb, luPerDb: Math.max(LEAST_LU_PER_DB, luPerDb), maxReductionDb },
    stop: binding === 'target' ? null : { binding, shortfallLu },
  };
}

/** Loudness that comes behind the limiter loses, in LU: what it has to make up for. */
function lossOf(before: RowPrediction['readings'], after: RowPrediction['readings'], spec: Spec): number {
  const [from, to] = [specLoudness(before, spec), specLoudness(after, spec)];
  return from === null || to === null ? 0 : Math.max(0, from - to);
}
