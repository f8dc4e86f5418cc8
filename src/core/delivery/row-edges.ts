import * as z from 'zod';
import { readingOldNames } from '../schema/old-names';
import type { Facts } from '../spec/facts';
import { isUnknown } from '../spec/facts';
import type { Spec } from '../spec/spec';
import { type Padding, paddingSchema } from '../treatment/steps/padding';
import { type Trim, trimmedRange, trimSchema } from '../treatment/steps/trim';
import { OLD_STEP_NAMES, type Treatment } from '../treatment/treatment';

/** What a row has at its edges in place of what its programme's treatment has: what is not stated is the programme's. */
const rowEdgesFields = z.object({
  paddingStart: paddingSchema.nullable().optional(),
  paddingEnd: paddingSchema.nullable().optional(),
  /** Where digital silence is cut off first. */
  trim: trimSchema.optional(),
});
export const rowEdgesSchema = readingOldNames(rowEdgesFields, OLD_STEP_NAMES);
export type RowEdges = z.infer<typeof rowEdgesFields>;

/** Edges are measured in tenths of a second: what is added reaches so far beyond the least. */
const MARGIN_SECONDS = 0.25;
/** Digital silence shorter than this is left where it is. */
const SHORTEST_SILENCE_SECONDS = 0.05;

/**
 * What has to be added at a programme's edges, as room tone, for them to be as a spec asks: where there is too little of them, and
 * where digital silence stands in their place. What is too long is cut only where that is asked for.
 *
 * @param facts of the treated programme, as forecast
 * @param source frames and rate of the source, in whose frames a trim is counted
 * @returns undefined where nothing is missing, or the edges are not known
 */
export function missingEdges(
  spec: Pick<Spec, 'head' | 'tail' | 'needsRoomTone'>,
  facts: Pick<Facts, 'edges' | 'readings' | 'sampleRateHz'>,
  treatment: Pick<Treatment, 'trim' | 'paddingStart' | 'paddingEnd'>,
  source: { frames: number; sampleRateHz: number },
  { cutsLong = false } = {},
): RowEdges | undefined {
  const { edges, readings, sampleRateHz } = facts;
  if (isUnknown(edges)) return undefined;
  const silence = readings.digitalSilence;
  const side = (range: Spec['head'], seconds: number, silentSeconds: number, padding: Padding | null) => {
    const isSilent = spec.needsRoomTone === true && silentSeconds >= SHORTEST_SILENCE_SECONDS;
    // What was added as silence is replaced; what the source itself has is cut off.
    const paddingSeconds = (padding?.frames ?? 0) / sampleRateHz;
    const cutSeconds = isSilent ? Math.max(0, silentSeconds - paddingSeconds) : 0;
    const least = range?.least ?? 0;
    const aim =
      range?.most == null ? least + MARGIN_SECONDS : Math.min((least + range.most) / 2, least + MARGIN_SECONDS);
    const left = seconds - cutSeconds;
    const isLong = cutsLong && range?.most != null && left > range.most;
    // What was added stays in its place: it is made shorter, and only then the source's own.
    if (isLong && !isSilent) {
      const excessSeconds = left - aim;
      const kept = Math.max(0, paddingSeconds - excessSeconds);
      const padded = Math.round(kept * sampleRateHz);
      return {
        padding: padded > 0 && padding ? { ...padding, frames: padded } : null,
        cutSeconds: Math.max(0, excessSeconds - paddingSeconds),
      };
    }
    if (!isSilent && left >= least) return undefined;
    const frames = Math.round((paddingSeconds + Math.max(0, aim - left)) * sampleRateHz);
    return { padding: frames > 0 ? ({ frames, kind: 'room-tone' } as const) : null, cutSeconds };
  };
  const head = side(spec.head, edges.headSeconds, silence?.headSeconds ?? 0, treatment.paddingStart);
  const tail = side(spec.tail, edges.tailSeconds, silence?.tailSeconds ?? 0, treatment.paddingEnd);
  if (!head && !tail) return undefined;
  const cut = (seconds: number | undefined) => Math.round((seconds ?? 0) * source.sampleRateHz);
  const [fromStart, fromEnd] = [cut(head?.cutSeconds), cut(tail?.cutSeconds)];
  const kept = trimmedRange(treatment.trim, source.frames);
  const trim: Trim | undefined =
    fromStart + fromEnd === 0
      ? undefined
      : { startFrame: kept.startFrame + fromStart, endFrame: kept.endFrame - fromEnd };
  return {
    ...(head ? { paddingStart: head.padding } : {}),
    ...(tail ? { paddingEnd: tail.padding } : {}),
    ...(trim ? { trim } : {}),
  };
}

/** A treatment with a row's own edges. */
export function withRowEdges(treatment: Treatment, edges: RowEdges | null): Treatment {
  if (!edges) return treatment;
  const { paddingStart = treatment.paddingStart, paddingEnd = treatment.paddingEnd, trim = treatment.trim } = edges;
  return { ...treatment, paddingStart, paddingEnd, trim };
}
