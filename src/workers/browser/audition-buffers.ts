import type { ReductionStretch } from '../protocol';
import type { FramesPart } from './audition-messages';

export function add<Part extends { startFrame: number }>(parts: Map<string, Part[]>, id: string, part: Part): void {
  const own = parts.get(id);
  if (own) own.push(part);
  else parts.set(id, [part]);
}

export function isWithin(at: number, startFrame: number, frames: number): boolean {
  return at >= startFrame && at < startFrame + frames;
}

export function framesOf({ channels }: FramesPart): number {
  return channels[0]?.length ?? 0;
}

export function framesOfReduction({ reductions, nodeFrames }: ReductionStretch): number {
  return ((reductions[0]?.length ?? 1) - 1) * nodeFrames;
}

export function silence(room: readonly Float32Array[], count: number): number {
  for (const samples of room) samples.fill(0, 0, count);
  return count;
}

export function scale(channels: readonly Float32Array[], frames: number, gain: number): void {
  if (gain === 1) return;
  for (const samples of channels) for (let n = 0; n < frames; n++) samples[n] = (samples[n] ?? 0) * gain;
}

/** Keeps frames as they are but for their gain. */
export function keep(from: readonly Float32Array[], to: readonly Float32Array[], frames: number, gain: number): void {
  from.forEach((samples, c) => {
    const own = to[c] as Float32Array;
    for (let n = 0; n < frames; n++) own[n] = gain * (samples[n] ?? 0);
  });
}

/** What is missing in `room` of `plain`, put into `room`. */
export function takeFrom(plain: readonly Float32Array[], room: readonly Float32Array[], frames: number): void {
  room.forEach((samples, c) => {
    const own = plain[c] as Float32Array;
    for (let n = 0; n < frames; n++) samples[n] = (own[n] ?? 0) - (samples[n] ?? 0);
  });
}
