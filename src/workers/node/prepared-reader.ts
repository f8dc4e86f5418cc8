import { applyRoomTone, crossfadeFrames, RoomTone, type ToneCandidate } from '@/core/treatment/room-tone';
import type { Padding } from '@/core/treatment/steps/padding';
import { removeDc } from '@/core/treatment/steps/remove-dc';
import { trimmedRange } from '@/core/treatment/steps/trim';
import { treatedChannels } from '@/core/treatment/treated-channels';
import { type FrameSteps, processFrames } from '@/core/treatment/treatment';
import { type PcmReader, PIECE_FRAMES } from '@/formats/pcm-reader';
import { findTone, needsTone } from './room-tone';

/** What has to be found in the whole of what is kept before its first frame can be told. */
export interface PreparedFacts {
  /** Of each channel of the source, what removing DC takes off; empty where that is off. */
  means: number[];
  /** What room tone is made from, in frames of the file; null where none is asked for. */
  tone: ToneCandidate | null;
}

/** A source, resampled where that is asked for, with what is still to be done to it before its gain. */
export interface PreparedSource {
  path: string;
  steps: FrameSteps;
  /** Frames that a resampler was to make; the file may be a few frames shorter, and silence makes up for them. */
  promisedFrames?: number | undefined;
  /** What room tone is made from, in frames of the file, where it was found before that was cut; else it is looked for. */
  tone?: ToneCandidate | undefined;
  /** Where they are known already; else the source is gone through for them. */
  facts?: PreparedFacts | undefined;
}

export interface PreparedFormat {
  sampleRateHz: number;
  channels: number;
  channelMask: number;
  frames: number;
}

/**
 * A source as its treatment leaves it before the gain: what is kept, without its means, with its channels mixed, and with
 * what is added ahead and behind. Frames come from anywhere, and are the same wherever one begins.
 */
export class PreparedReader {
  readonly format: PreparedFormat;
  readonly #reader: PcmReader;
  readonly #steps: FrameSteps;
  readonly #facts: PreparedFacts;
  readonly #tone: RoomTone | null;
  /** First frame that is kept, and the one behind the last, in the source. */
  readonly #startFrame: number;
  readonly #endFrame: number;
  readonly #headFrames: number;
  /** Frames between what is added ahead and behind. */
  readonly #bodyFrames: number;
  #frame = 0;

  private constructor(
    reader: PcmReader,
    steps: FrameSteps,
    found: { facts: PreparedFacts; tone: Float32Array[] | null },
    bodyFrames: number,
  ) {
    const { format } = reader.header;
    const { startFrame, endFrame } = trimmedRange(steps.trim, format.frames);
    const channels = treatedChannels(steps, format.channels);
    this.#reader = reader;
    this.#steps = steps;
    this.#facts = found.facts;
    this.#tone = found.tone && new RoomTone(found.tone, format.sampleRateHz);
    this.#startFrame = startFrame;
    this.#endFrame = endFrame;
    this.#headFrames = steps.paddingStart?.frames ?? 0;
    this.#bodyFrames = bodyFrames;
    this.format = {
      sampleRateHz: format.sampleRateHz,
      channels,
      channelMask: channels === format.channels ? format.channelMask : 0,
      frames: this.#headFrames + bodyFrames + (steps.paddingEnd?.frames ?? 0),
    };
  }

  /** Throws `no-room-tone` where one is asked for and there is none. */
  static async open(
    reader: PcmReader,
    { steps, promisedFrames, tone: knownTone, facts: known }: PreparedSource,
    fileName: string,
  ): Promise<PreparedReader> {
    const { startFrame, endFrame } = trimmedRange(steps.trim, reader.header.format.frames);
    const facts = known ?? (await findFacts(reader, steps, knownTone, fileName));
    const tone = facts.tone && (await readTone(reader, steps, { ...facts, tone: facts.tone }));
    return new PreparedReader(reader, steps, { facts, tone }, promisedFrames ?? endFrame - startFrame);
  }

  get facts(): PreparedFacts {
    return this.#facts;
  }

  /** Position of the next frame. */
  get frame(): number {
    return this.#frame;
  }

  /** Goes to a frame, which is the next to be read. */
  seek(frame: number): void {
    this.#frame = frame;
  }

  /**
   * The next frames, or undefined at the end. The arrays are used again by the next call, and hold `frames` samples. A
   * source that has become shorter since it was opened ends early.
   */
  async next(): Promise<{ channels: Float32Array[]; frames: number } | undefined> {
    const left = this.format.frames - this.#frame;
    if (left <= 0) return undefined;
    const bodyEnd = this.#headFrames + this.#bodyFrames;
    let channels: Float32Array[] | undefined;
    if (this.#frame < this.#headFrames) channels = this.#silence(this.#headFrames - this.#frame);
    else if (this.#frame >= bodyEnd) channels = this.#silence(left);
    else channels = await this.#body();
    if (!channels) return undefined;
    const frames = channels[0]?.length ?? 0;
    this.#addRoomTone(channels, frames, bodyEnd);
    this.#frame += frames;
    return { channels, frames };
  }

  #silence(frames: number): Float32Array[] {
    const length = Math.min(frames, PIECE_FRAMES);
    return Array.from({ length: this.format.channels }, () => new Float32Array(length));
  }

  async #body(): Promise<Float32Array[] | undefined> {
    const at = this.#startFrame + this.#frame - this.#headFrames;
    // What a resampler has left out at its end.
    if (at >= this.#endFrame) return this.#silence(this.#bodyFrames + this.#headFrames - this.#frame);
    const planar = await readKept(this.#reader, at, this.#endFrame);
    return planar && treat(this.#steps, this.#facts.means, planar);
  }

  #addRoomTone(channels: Float32Array[], frames: number, bodyEnd: number): void {
    const tone = this.#tone;
    if (!tone) return;
    const crossfade = crossfadeFrames(this.format.sampleRateHz, this.#bodyFrames);
    const add = (pad: Padding | null, edge: number, isHead: boolean) => {
      if (pad?.kind === 'room-tone') applyRoomTone(channels, frames, this.#frame, { tone, edge, crossfade, isHead });
    };
    add(this.#steps.paddingStart, this.#headFrames, true);
    add(this.#steps.paddingEnd, bodyEnd, false);
  }
}

/** The frames from `at` on, before `endFrame`; the reader stands behind them. */
async function readKept(reader: PcmReader, at: number, endFrame: number): Promise<Float32Array[] | undefined> {
  if (reader.frame !== at) reader.seek(at);
  const piece = await reader.next();
  if (!piece) return undefined;
  const frames = Math.min(piece.frames, endFrame - at);
  reader.seek(at + frames);
  return piece.channels.map((samples) => samples.subarray(0, frames));
}

function treat(steps: FrameSteps, means: readonly number[], planar: Float32Array[]): Float32Array[] {
  if (means.length > 0) removeDc(planar, planar[0]?.length ?? 0, means);
  return processFrames(steps, planar);
}

async function findFacts(
  reader: PcmReader,
  steps: FrameSteps,
  knownTone: ToneCandidate | undefined,
  fileName: string,
): Promise<PreparedFacts> {
  const tone = needsTone(steps) ? (knownTone ?? (await findTone(reader, steps, fileName))) : null;
  return { means: steps.removeDc ? await findMeans(reader, steps) : [], tone };
}

/** Of each channel, over what is kept. */
async function findMeans(reader: PcmReader, { trim }: FrameSteps): Promise<number[]> {
  const { channels, frames } = reader.header.format;
  const { startFrame, endFrame } = trimmedRange(trim, frames);
  const sums = new Float64Array(channels);
  for (let at = startFrame; at < endFrame; ) {
    const planar = await readKept(reader, at, endFrame);
    if (!planar) break;
    planar.forEach((samples, c) => {
      let sum = 0;
      for (let n = 0; n < samples.length; n++) sum += samples[n] as number;
      sums[c] = (sums[c] as number) + sum;
    });
    at += planar[0]?.length ?? 0;
  }
  return Array.from(sums, (sum) => sum / (endFrame - startFrame));
}

/** A stretch of the source as it will be written. */
async function readTone(
  reader: PcmReader,
  steps: FrameSteps,
  { means, tone }: PreparedFacts & { tone: NonNullable<PreparedFacts['tone']> },
): Promise<Float32Array[]> {
  const endFrame = tone.startFrame + tone.frames;
  const joined: Float32Array[] = [];
  for (let at = tone.startFrame; at < endFrame; ) {
    const kept = await readKept(reader, at, endFrame);
    if (!kept) break;
    const part = treat(steps, means, kept);
    part.forEach((samples, channel) => {
      joined[channel] ??= new Float32Array(tone.frames);
      joined[channel].set(samples, at - tone.startFrame);
    });
    at += part[0]?.length ?? 0;
  }
  return joined;
}
