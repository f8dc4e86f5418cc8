'use client';

import { useMemo } from 'react';
import { type Edges, edgesOf } from '@/core/loudness/edges';
import type { Readings } from '@/core/loudness/readings';
import { type Fact, unknown } from '@/core/spec/facts';
import { fadedPower, forecastFades, forecastGain, glance, moveLevels } from '@/core/treatment/forecast';
import type { Fades } from '@/core/treatment/steps/fade';
import {
  fadesOf,
  isLevelOnly,
  NO_PREPARATION,
  type Preparation,
  preparationOf,
  type Treatment,
} from '@/core/treatment/treatment';
import { dbToPower } from '@/core/units/decibel';
import type { ProgrammeView } from '@/server/jobs/jobs';
import { type LimitedNow, useLimited } from './use-limiter';
import { type SourceKey, type Trace, useTrace } from './use-trace';

/** A programme as a treatment prepares it, and as it leaves it. */
export interface Treated {
  source: SourceKey;
  /** The source itself. */
  trace: Trace | 'failed' | undefined;
  preparation: Preparation;
  /** What comes before the gain, measured: null until that is, and the source's own where it changes nothing. */
  prepared: Trace | null;
  /** What comes before the gain is being measured. */
  isPreparing: boolean;
  hasFailed: boolean;
  /** Readings before the gain, and after everything. */
  before: Readings;
  after: Readings;
  limited: LimitedNow | 'failed' | undefined;
  /** Weighted power of every 100 ms behind everything but the gain, which stands beside it; null until it is known. */
  curve: { values: Float32Array; gainDb: number } | null;
  /** What stands ahead of the first sound and behind the last, once it is known. */
  edges: Fact<Edges>;
}

/** What a programme's treatment makes of it, forecast from what is kept of it: at once, as exact as it will be measured. */
export function useTreated(
  programme: ProgrammeView,
  measured: NonNullable<ProgrammeView['measured']>,
  treatment: Treatment,
): Treated {
  const { id: programmeId, sha256, format } = programme;
  const { layout, sampleRateHz } = format;
  const source = useMemo(() => ({ programmeId, sha256, layout }), [programmeId, sha256, layout]);
  const preparationKey = JSON.stringify(preparationOf(treatment));
  const preparation = useMemo(
    () => withoutItsOwnRate(JSON.parse(preparationKey) as Preparation, sampleRateHz),
    [preparationKey, sampleRateHz],
  );
  const isPlain = isLevelOnly(preparation);
  const trace = useTrace(source, NO_PREPARATION);
  const own = useTrace(source, isPlain ? null : preparation);
  const found = isPlain ? trace : own;
  const prepared = typeof found === 'object' ? found : null;
  const before = prepared?.meta.readings ?? measured.readings;
  const { gainDb, limit, outputGainDb } = treatment;
  const limited = useLimited(source, preparation, limit && { gainDb, limit });
  const fadesKey = JSON.stringify(fadesOf(treatment));
  /** Behind the limiter, before the gain and the fades. */
  const power = useMemo(() => {
    if (limit && typeof limited === 'object') return limited.limited.weightedPower;
    return prepared?.weightedPower ?? null;
  }, [limit, limited, prepared]);
  const after = useMemo(() => {
    if (!prepared || !power) return glance(before, { gainDb, limit, outputGainDb });
    const unfaded = limit
      ? limitedAfter(before, { gainDb, limit, outputGainDb }, limited)
      : forecastGain(before, power, gainDb + outputGainDb);
    return forecastFades(unfaded, power, gainDb + outputGainDb, prepared.meta, JSON.parse(fadesKey) as Fades);
  }, [before, prepared, power, gainDb, outputGainDb, limit, limited, fadesKey]);
  const curve = useMemo(
    () =>
      prepared && power
        ? { values: fadedPower(power, prepared.meta, JSON.parse(fadesKey) as Fades), gainDb: gainDb + outputGainDb }
        : null,
    [prepared, power, gainDb, outputGainDb, fadesKey],
  );
  const edges = useMemo(() => {
    if (!curve) return isPlain && measured.edges ? measured.edges : unknown('forecast is on its way');
    const power = dbToPower(curve.gainDb);
    return edgesOf(curve.values.map((own) => own * power));
  }, [curve, isPlain, measured.edges]);
  return {
    ...{ source, trace, preparation, prepared, before, after, limited, curve, edges },
    isPreparing: !isPlain && found === undefined,
    hasFailed: found === 'failed',
  };
}

function withoutItsOwnRate(preparation: Preparation, sampleRateHz: number): Preparation {
  return preparation.resampleHz === sampleRateHz ? { ...preparation, resampleHz: null } : preparation;
}

/** What a limiter leaves: as forecast, or until that has come as the last forecast moved, or else at a glance. */
function limitedAfter(
  before: Readings,
  levels: Pick<Treatment, 'gainDb' | 'limit' | 'outputGainDb'>,
  limited: LimitedNow | 'failed' | undefined,
): Readings {
  if (typeof limited !== 'object') return glance(before, levels);
  if (limited.isUpToDate) return moveLevels(limited.limited.readings, levels.outputGainDb);
  return glance(limited.limited.readings, { ...levels, gainDb: levels.gainDb - limited.gainDb });
}
