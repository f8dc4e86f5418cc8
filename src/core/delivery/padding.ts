import * as z from 'zod';
import type { Facts } from '../spec/facts';
import { isUnknown } from '../spec/facts';
import type { Spec } from '../spec/spec';
import { type Keep, keepSchema, keptRange } from '../treatment/steps/keep';
import { type Pad, padSchema } from '../treatment/steps/pad';
import type { Treatment } from '../treatment/treatment';

/** What a row has at its edges in place of what its programme's treatment has: what is not stated is the programme's. */
export const rowEdgesSchema = z.object({
  head: padSchema.nullable().optional(),
  tail: padSchema.nullable().optional(),
  /** Where digital silence is cut off first. */
  keep: keepSchema.optional(),
});
export type RowEdges = z.infer<typeof rowEdgesSchema>;

/** Edges are measured in tenths of a second: what is added reaches so far beyond the least. */
const MARGIN_SECONDS = 0.25;
/** Digital silence shorter than this is left where it is. */
const SHORTEST_SILENCE_SECONDS = 0.05;

/**
 * What has to be added at a programme's edges, as room tone, for them to be as a spec asks: where there is too little of them, and
 * where digital silence stands in their place. What is too long is not cut.
 *
 * @param facts of the treated programme, as forecast
 * @param source frames and rate of the source, in whose frames a trim is counted
 * @returns undefined where nothing is missing, or the edges are not known
 */
export function missingEdges(
  spec: Pick<Spec, 'head' | 'tail' | 'needsRoomTone'>,
  facts: Pick<Facts, 'edges' | 'readings' | 'sampleRateHz'>,
  treatment: Pick<Treatment, 'keep' | 'head' | 'tail'>,
  source: { frames: number; sampleRateHz: number },
): RowEdges | undefined {
  const { edges, readings, sampleRateHz } = facts;
  if (isUnknown(edges)) return undefined;
  const silence = readings.digitalSilence;
  const side = (range: Spec['head'], seconds: number, silentSeconds: number, pad: Pad | null) => {
    const isSilent = spec.needsRoomTone === true && silentSeconds >= SHORTEST_SILENCE_SECONDS;
    // What was added as silence is replaced; what the source itself has is cut off.
    const padSeconds = (pad?.frames ?? 0) / sampleRateHz;
    const cutSeconds = isSilent ? Math.max(0, silentSeconds - padSeconds) : 0;
    const least = range?.least ?? 0;
    const aim =
      range?.most == null ? least + MARGIN_SECONDS : Math.min((least + range.most) / 2, least + MARGIN_SECONDS);
    const left = seconds - cutSeconds;
    if (!isSilent && left >= least) return undefined;
    const frames = Math.round((padSeconds + Math.max(0, aim - left)) * sampleRateHz);
    return { pad: frames > 0 ? ({ frames, kind: 'room-tone' } as const) : null, cutSeconds };
  };
  const head = side(spec.head, edges.headSeconds, silence?.headSeconds ?? 0, treatment.head);
  const tail = side(spec.tail, edges.tailSeconds, silence?.tailSeconds ?? 0, treatment.tail);
  if (!head && !tail) return undefined;
  const cut = (seconds: number | undefined) => Math.round((seconds ?? 0) * source.sampleRateHz);
  const [fromStart, fromEnd] = [cut(head?.cutSeconds), cut(tail?.cutSeconds)];
  const kept = keptRange(treatment.keep, source.frames);
  const keep: Keep | undefined =
    fromStart + fromEnd === 0
      ? undefined
      : { startFrame: kept.startFrame + fromStart, endFrame: kept.endFrame - fromEnd };
  return {
    ...(head ? { head: head.pad } : {}),
    ...(tail ? { tail: tail.pad } : {}),
    ...(keep ? { keep } : {}),
  };
}

/** A treatment with a row's own edges. */
export function withRowEdges(treatment: Treatment, edges: RowEdges | null): Treatment {
  if (!edges) return treatment;
  const { head = treatment.head, tail = treatment.tail, keep = treatment.keep } = edges;
  return { ...treatment, head, tail, keep };
}
