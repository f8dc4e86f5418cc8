import { channelLayout, layoutNamed, loudspeakersOf } from '../loudness/channel-layout';
import type { Downmix } from './steps/downmix';
import { mixedChannels } from './steps/mix-channels';
import type { Padding } from './steps/padding';
import { rescaledSteps, type StepName, type Treatment } from './treatment';

/** What of a source tells whether something that was set for another fits it. */
export interface SourceShape {
  sampleRateHz: number;
  frames: number;
  channels: number;
  /** Name of its channel layout. */
  layout?: string | undefined;
}

/** From a frame, up to but without another; to the end where that is null. */
export interface FrameRange {
  startFrame: number;
  endFrame: number | null;
}

/** What becomes of something that reaches behind the end of a new source: it ends there, or is gone. */
export const MISFITS = ['cut', 'removed'] as const;
export type Misfit = (typeof MISFITS)[number];

/** What of a treatment did not fit. */
export type MisfitStep = 'trim' | 'downmix' | 'channels' | 'room-tone';

/**
 * Moves a range from one source to another: it keeps its time, and ends where the new one does.
 *
 * @returns no range where it begins behind the end of the new one
 */
export function refitRange<R extends FrameRange>(
  range: R,
  from: SourceShape,
  to: SourceShape,
): { range: R | null; misfit: Misfit | null } {
  const ratio = to.sampleRateHz / from.sampleRateHz;
  const startFrame = Math.round(range.startFrame * ratio);
  // However short it is, something is left of it.
  const endFrame = range.endFrame === null ? null : Math.max(startFrame + 1, Math.round(range.endFrame * ratio));
  if (startFrame >= to.frames) return { range: null, misfit: 'removed' };
  if (endFrame === null || endFrame <= to.frames) return { range: { ...range, startFrame, endFrame }, misfit: null };
  return { range: { ...range, startFrame, endFrame: to.frames }, misfit: 'cut' };
}

/**
 * Moves a treatment from one source to another. Every setting is kept, but for places that the new one does not have; lengths keep
 * their time.
 */
export function refitTreatment(
  treatment: Treatment,
  from: SourceShape,
  to: SourceShape,
): { treatment: Treatment; misfits: { step: MisfitStep; misfit: Misfit }[] } {
  const misfits: { step: MisfitStep; misfit: Misfit }[] = [];
  const ratio = to.sampleRateHz / from.sampleRateHz;
  // What is written at a rate of its own is written at that again.
  const lengths = treatment.resampleHz === null ? rescaledSteps(treatment, ratio) : {};
  const fitted: Treatment = { ...treatment, ...lengths };
  if (treatment.trim) {
    const { range, misfit } = refitRange(treatment.trim, from, to);
    fitted.trim = range;
    if (misfit) misfits.push({ step: 'trim', misfit });
  }
  fitted.downmix = refitDownmix(treatment.downmix, to);
  // Of what has two channels or one already, a downmix is nothing.
  if (treatment.downmix && !fitted.downmix && to.channels > 2) misfits.push({ step: 'downmix', misfit: 'removed' });
  if (to.channels !== 2 && fitted.downmix?.to !== 'stereo' && treatment.mix !== 'stereo') {
    fitted.mix = 'stereo';
    // A sum to mono is what a mono source is already.
    if (to.channels !== 1 || mixedChannels(treatment.mix) !== 1) misfits.push({ step: 'channels', misfit: 'removed' });
  }
  let isToneGone = false;
  const refitTone = (padding: Padding | null) => {
    if (padding?.toneStartFrame === undefined) return padding;
    const { toneStartFrame, ...found } = padding;
    const moved = Math.round(toneStartFrame * ratio);
    if (moved < to.frames) return { ...found, toneStartFrame: moved };
    isToneGone = true;
    return found;
  };
  fitted.paddingStart = refitTone(fitted.paddingStart);
  fitted.paddingEnd = refitTone(fitted.paddingEnd);
  if (isToneGone) misfits.push({ step: 'room-tone', misfit: 'removed' });
  return { treatment: fitted, misfits };
}

/** The same downmix, of the channels of another source. */
function refitDownmix(downmix: Downmix | null, { channels, layout }: SourceShape): Downmix | null {
  if (downmix === null || channels < 3) return null;
  const named = layout === undefined ? undefined : layoutNamed(layout);
  const from = loudspeakersOf(named ?? channelLayout(channels));
  return from?.length === channels ? { ...downmix, from } : null;
}

/**
 * Some steps of a treatment, for another programme: places are those of its source, and lengths keep their time at the rate that it
 * is written at.
 *
 * @param to.resampleHz rate that the other is written at; null for that of its source
 * @returns what is to be set, and the names of steps that it has no room for: those stay as they are
 */
export function refitSteps(
  treatment: Treatment,
  names: readonly StepName[],
  from: SourceShape,
  to: SourceShape & { resampleHz: number | null },
): { steps: Partial<Treatment>; unfit: StepName[] } {
  const { treatment: fitted, misfits } = refitTreatment({ ...treatment, resampleHz: null }, from, to);
  // So far lengths went from one source's rate to the other's.
  const fromRatio = (treatment.resampleHz ?? from.sampleRateHz) / from.sampleRateHz;
  const writtenHz = names.includes('resampleHz') ? treatment.resampleHz : to.resampleHz;
  const toRatio = (writtenHz ?? to.sampleRateHz) / to.sampleRateHz;
  const whole = {
    ...fitted,
    ...rescaledSteps(fitted, toRatio / fromRatio),
    resampleHz: treatment.resampleHz,
  };
  const unfit = names.filter((name) =>
    misfits.some(({ step, misfit }) => misfit === 'removed' && UNFIT_STEPS[step] === name),
  );
  const fitting = names.filter((name) => !unfit.includes(name));
  return { steps: Object.fromEntries(fitting.map((name) => [name, whole[name]])), unfit };
}

/** Steps that are nothing without what did not fit. Room tone that has no place is taken from where it is found. */
const UNFIT_STEPS: Partial<Record<MisfitStep, StepName>> = { trim: 'trim', downmix: 'downmix', channels: 'mix' };
