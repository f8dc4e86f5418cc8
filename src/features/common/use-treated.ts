'use client';

import { useMemo } from 'react';
import { type Edges, edgesOf } from '@/core/loudness/edges';
import type { Readings } from '@/core/loudness/readings';
import { type Fact, unknown } from '@/core/spec/facts';
import { forecastLevels, gainedPower, glance } from '@/core/treatment/forecast';
import type { Fades } from '@/core/treatment/steps/fade';
import {
  fadesOf,
  isLevelOnly,
  type Levels,
  NO_PREPARATION,
  type Preparation,
  preparationOf,
  type Treatment,
} from '@/core/treatment/treatment';
import type { ProgrammeView } from '@/server/jobs/programme-view';
import { useTreatedMessages as messages } from './messages';
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
  programme: Pick<ProgrammeView, 'id' | 'sha256' | 'format'>,
  measured: Pick<NonNullable<ProgrammeView['measured']>, 'readings'> & { edges?: Edges | undefined },
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
  const forecast = useMemo(() => {
    if (!prepared || !power) return null;
    return forecastLevels(
      { readings: before, weightedPower: power, format: prepared.meta },
      { gainDb, outputGainDb },
      JSON.parse(fadesKey) as Fades,
      limit && { readings: limitedNow(before, { gainDb, limit }, limited), weightedPower: power },
    );
  }, [before, prepared, power, gainDb, outputGainDb, limit, limited, fadesKey]);
  const after = useMemo(
    () => forecast?.readings ?? glance(before, { gainDb, limit, outputGainDb }),
    [forecast, before, gainDb, limit, outputGainDb],
  );
  const curve = forecast?.curve ?? null;
  const edges = useMemo(() => {
    if (!curve) return isPlain && measured.edges ? measured.edges : unknown(messages.forecasting);
    return edgesOf(gainedPower(curve));
  }, [curve, isPlain, measured.edges]);
  return {
    source,
    trace,
    preparation,
    prepared,
    before,
    after,
    limited,
    curve,
    edges,
    isPreparing: !isPlain && found === undefined,
    hasFailed: found === 'failed',
  };
}

function withoutItsOwnRate(preparation: Preparation, sampleRateHz: number): Preparation {
  return preparation.resampleHz === sampleRateHz ? { ...preparation, resampleHz: null } : preparation;
}

/** What a limiter leaves: as forecast, or until that has come as the last forecast moved, or else at a glance. */
function limitedNow(before: Readings, levels: Levels, limited: LimitedNow | 'failed' | undefined): Readings {
  if (typeof limited !== 'object') return glance(before, { ...levels, outputGainDb: 0 });
  if (limited.isUpToDate) return limited.limited.readings;
  return glance(limited.limited.readings, { ...levels, gainDb: levels.gainDb - limited.gainDb, outputGainDb: 0 });
}
