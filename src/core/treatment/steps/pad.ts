import * as z from 'zod';

export const PAD_KINDS = ['silence', 'room-tone'] as const;

/** What is added ahead of a programme or behind it: digital silence, or its own room tone. */
export const padSchema = z.object({ frames: z.int().positive(), kind: z.enum(PAD_KINDS) });
export type Pad = z.infer<typeof padSchema>;

/** How long a room tone is that is taken from a programme, and what it is crossfaded by. */
const ROOM_TONE_SECONDS = 0.5;
const CROSSFADE_SECONDS = 0.05;

export function describePad({ frames, kind }: Pad, where: 'head' | 'tail', sampleRateHz: number): string {
  const seconds = Number((frames / sampleRateHz).toFixed(3));
  return `${seconds} s of ${kind === 'silence' ? 'silence' : 'room tone'} ${where === 'head' ? 'ahead' : 'behind'}`;
}

/** Frames over which room tone and programme pass into each other, within the programme. */
export function crossfadeFrames(sampleRateHz: number, programmeFrames: number): number {
  return Math.min(Math.round(CROSSFADE_SECONDS * sampleRateHz), Math.floor(programmeFrames / 2));
}

/**
 * A sample of a room tone that goes on for ever: its end passes into its beginning at equal power, since the two have
 * nothing in common.
 *
 * @param tone one channel of it
 * @param crossfade frames, no more than half of it
 */
export function loopedTone(tone: Float32Array, crossfade: number, frame: number): number {
  const period = tone.length - crossfade;
  const place = frame % period;
  const sample = tone[place] as number;
  if (place >= crossfade) return sample;
  const angle = (Math.PI / 2) * (place / crossfade);
  return Math.sin(angle) * sample + Math.cos(angle) * (tone[period + place] as number);
}

/**
 * Adds a pad's room tone to the frames of a padded programme, in place: it stands alone in the pad, where there is silence so far,
 * and the programme's first or last frames pass into it at equal power.
 *
 * @param startFrame of the first of the frames given, in the padded programme
 * @param edge the pad's edge to the programme: its first frame (at the head) or the one behind its last (at the tail)
 */
export function applyRoomTone(
  channels: readonly Float32Array[],
  frames: number,
  startFrame: number,
  {
    tone,
    edge,
    crossfade,
    isHead,
  }: { tone: readonly Float32Array[]; edge: number; crossfade: number; isHead: boolean },
): void {
  const half = Math.min(crossfade, Math.floor((tone[0]?.length ?? 0) / 2));
  const [from, to] = isHead ? [0, edge + crossfade] : [edge - crossfade, Number.POSITIVE_INFINITY];
  const first = Math.max(from, startFrame);
  const last = Math.min(to, startFrame + frames);
  for (let frame = first; frame < last; frame++) {
    const into = isHead ? frame - edge : edge - 1 - frame;
    // How far inside the programme: 0 at its edge, 1 where nothing is left of the tone.
    const place = into < 0 ? 0 : (into + 0.5) / crossfade;
    const kept = into < 0 ? 0 : Math.sin((Math.PI / 2) * place);
    const added = into < 0 ? 1 : Math.cos((Math.PI / 2) * place);
    channels.forEach((samples, channel) => {
      const n = frame - startFrame;
      const looped = loopedTone(tone[channel] as Float32Array, half, frame);
      samples[n] = kept * (samples[n] as number) + added * looped;
    });
  }
}

/** Finds the quietest half-second of a programme that is no digital silence, from what goes through it. */
export class QuietestFinder {
  readonly #binFrames: number;
  readonly #bins: number[] = [];
  #squares = 0;
  #filled = 0;
  #isSilent = true;

  constructor(sampleRateHz: number) {
    this.#binFrames = Math.round((ROOM_TONE_SECONDS * sampleRateHz) / BINS);
  }

  process(channels: readonly Float32Array[], frames: number): void {
    for (let n = 0; n < frames; n++) {
      for (const samples of channels) {
        const x = samples[n] as number;
        this.#squares += x * x;
        if (x !== 0) this.#isSilent = false;
      }
      if (++this.#filled === this.#binFrames) {
        this.#bins.push(this.#isSilent ? Number.POSITIVE_INFINITY : this.#squares);
        this.#squares = 0;
        this.#filled = 0;
        this.#isSilent = true;
      }
    }
  }

  /** Its first frame and its length, or null where the programme is too short or silent. */
  finish(): { startFrame: number; frames: number } | null {
    let best = -1;
    let least = Number.POSITIVE_INFINITY;
    for (let bin = 0; bin + BINS <= this.#bins.length; bin++) {
      const squares = this.#bins.slice(bin, bin + BINS).reduce((sum, value) => sum + value, 0);
      if (squares < least) [best, least] = [bin, squares];
    }
    return best < 0 ? null : { startFrame: best * this.#binFrames, frames: BINS * this.#binFrames };
  }
}

/** Parts of a half-second in which its beginning is sought. */
const BINS = 5;
