/** How long the stretch is that room tone is made from. */
const ROOM_TONE_SECONDS = 0.5;
/** What tone and programme pass into each other by, and one grain of tone into the next. */
const CROSSFADE_SECONDS = 0.05;

/** Frames over which room tone and programme pass into each other, within the programme. */
export function crossfadeFrames(sampleRateHz: number, programmeFrames: number): number {
  return Math.min(Math.round(CROSSFADE_SECONDS * sampleRateHz), Math.floor(programmeFrames / 2));
}

/** Frames that room tone is made from. */
export function toneFrames(sampleRateHz: number): number {
  return BINS * Math.round((ROOM_TONE_SECONDS * sampleRateHz) / BINS);
}

/**
 * Room tone that goes on for ever without repeating itself: grains from anywhere in a stretch of it, each passing into the next at
 * equal power, since they have nothing in common. Its spectrum is that of the stretch, its channels belong together, and any
 * frame can be asked for by itself: what place a grain is taken from follows from its number.
 */
export class RoomTone {
  readonly #channels: readonly Float32Array[];
  /** From the middle of one grain to that of the next. */
  readonly #hop: number;
  readonly #places: number;

  /** @param channels a stretch of noise, of one length, at least three grains long */
  constructor(channels: readonly Float32Array[], sampleRateHz: number) {
    const frames = channels[0]?.length ?? 0;
    this.#channels = channels;
    this.#hop = Math.max(1, Math.min(Math.round(CROSSFADE_SECONDS * sampleRateHz), Math.floor(frames / 6)));
    this.#places = Math.max(1, frames - 2 * this.#hop + 1);
  }

  /** @param frame from 0 on */
  sample(channel: number, frame: number): number {
    const hop = this.#hop;
    const grain = Math.floor(frame / hop);
    const offset = frame - grain * hop;
    const samples = this.#channels[channel] as Float32Array;
    const angle = ((Math.PI / 2) * (offset + 0.5)) / hop;
    const coming = samples[this.#place(grain) + offset] as number;
    const going = samples[this.#place(grain - 1) + hop + offset] as number;
    return Math.sin(angle) * coming + Math.cos(angle) * going;
  }

  /** Where a grain is taken from: by a hash of its number (Knuth's multiplier and xorshift mixing, from memory). */
  #place(grain: number): number {
    let hash = Math.imul(grain + 1, 0x9e3779b1);
    hash = Math.imul(hash ^ (hash >>> 15), 0x85ebca77);
    hash = Math.imul(hash ^ (hash >>> 13), 0xc2b2ae3d);
    return ((hash ^ (hash >>> 16)) >>> 0) % this.#places;
  }
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
  { tone, edge, crossfade, isHead }: { tone: RoomTone; edge: number; crossfade: number; isHead: boolean },
): void {
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
      samples[n] = kept * (samples[n] as number) + added * tone.sample(channel, frame);
    });
  }
}

/** A half-second that might be room tone. */
export interface ToneCandidate {
  startFrame: number;
  frames: number;
}

/** Finds the quietest half-seconds of a programme that hold no digital silence, from what goes through it. */
export class QuietestFinder {
  readonly #binFrames: number;
  readonly #bins: number[] = [];
  #squares = 0;
  #filled = 0;
  #isSilent = true;

  constructor(sampleRateHz: number) {
    this.#binFrames = toneFrames(sampleRateHz) / BINS;
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

  /** The quietest first, no two within a quarter of a second; none where the programme is too short or silent. */
  candidates(most: number): ToneCandidate[] {
    const sums: { bin: number; squares: number }[] = [];
    for (let bin = 0; bin + BINS <= this.#bins.length; bin++) {
      const squares = this.#bins.slice(bin, bin + BINS).reduce((sum, value) => sum + value, 0);
      if (Number.isFinite(squares)) sums.push({ bin, squares });
    }
    sums.sort((a, b) => a.squares - b.squares);
    const found: number[] = [];
    for (const { bin } of sums) {
      if (found.length === most) break;
      if (found.every((other) => Math.abs(other - bin) > BINS / 2)) found.push(bin);
    }
    return found.map((bin) => ({ startFrame: bin * this.#binFrames, frames: BINS * this.#binFrames }));
  }

  /** Mean square of everything but digital silence, a channel's. */
  meanSquare(channels: number): number {
    const heard = this.#bins.filter(Number.isFinite);
    const sum = heard.reduce((total, value) => total + value, 0);
    return heard.length > 0 ? sum / (heard.length * this.#binFrames * channels) : 0;
  }
}

/** Parts of a half-second in which its beginning is sought. */
const BINS = 5;
