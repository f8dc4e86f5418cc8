import { useMemo } from 'react';
import { MARGIN_DB } from '@/core/limiter/gain-curve';
import { findOvers, type Over } from '@/core/peak/overs';
import { type Timeline, toTreatedFrame } from '@/core/treatment/timeline';
import type { Treatment } from '@/core/treatment/treatment';
import { amplitudeToDb, type Level } from '@/core/units/decibel';
import { BINS_PER_SECOND } from '@/core/units/frames';
import type { Trace } from '@/features/common/use-trace';
import type { Span } from './trace/view';

const NONE: readonly Over[] = [];

/** The stretches of a treated programme above the ceiling, in its own frames. A limiter leaves none above its own. */
export function useOvers(prepared: Trace | null, treatment: Treatment, ceilingDbtp: number): readonly Over[] {
  const { gainDb, outputGainDb, limit } = treatment;
  const heldDbtp = limit ? limit.ceilingDbtp - MARGIN_DB + outputGainDb : Number.POSITIVE_INFINITY;
  return useMemo(
    () => (prepared && heldDbtp > ceilingDbtp ? findOvers(prepared.peaks, gainDb + outputGainDb, ceilingDbtp) : NONE),
    [prepared, gainDb, outputGainDb, heldDbtp, ceilingDbtp],
  );
}

/** Greatest true peak of a span after the treatment: of every column of the peaks that it touches. */
export function spanPeakDbtp(span: Span, prepared: Trace | null, treatment: Treatment, timeline: Timeline): Level {
  if (!prepared) return null;
  const { sampleRateHz, binsPerColumn } = prepared.meta;
  const columnOf = (frame: number) =>
    (toTreatedFrame(timeline, frame) * BINS_PER_SECOND) / sampleRateHz / binsPerColumn;
  const [first, last] = [Math.floor(columnOf(span.startFrame)), Math.ceil(columnOf(span.endFrame))];
  const greatest = prepared.peaks.peaks.reduce(
    (most, own) => own.subarray(Math.max(0, first), Math.max(0, last)).reduce((a, b) => Math.max(a, b), most),
    0,
  );
  const level = amplitudeToDb(greatest);
  if (level === null) return null;
  const { gainDb, outputGainDb, limit } = treatment;
  const held = limit ? Math.min(level + gainDb, limit.ceilingDbtp - MARGIN_DB) : level + gainDb;
  return held + outputGainDb;
}
