import { directGains } from './direct-speakers';
import { type GainStretch, gainTimeline } from './gain-timeline';
import type { AdmBlock } from './model';
import { pointSourcePanner } from './panner/point-source';
import { type RenderLayout, speakersOf } from './render-layouts';
import type { RenderItem } from './select-items';

/** An item on its way through the file. */
interface Track {
  channel: number;
  timeline: Iterator<GainStretch>;
  /** The stretch that is heard, or is the next; undefined at the end. */
  stretch: GainStretch | undefined;
}

/**
 * Renders the tracks of a programme for loudspeakers, from the first frame to the last: polar objects and direct speakers by ITU-R BS.2127 (from
 * memory).
 */
export class Renderer {
  readonly channels: number;
  readonly #tracks: Track[];
  #sums: Float64Array[] = [];
  #outputs: Float32Array[] = [];
  #frame = 0;

  /**
   * @param items of which everything is rendered
   * @param fileFrames of the whole file
   */
  constructor(items: readonly RenderItem[], layout: RenderLayout, sampleRateHz: number, fileFrames: number) {
    const speakers = speakersOf(layout);
    const panner = pointSourcePanner(layout);
    this.channels = speakers.length;
    this.#tracks = items.map((item) => {
      const { format } = item;
      const gainsOf = (block: AdmBlock) =>
        format.type === 'DirectSpeakers'
          ? directGains(format, block, speakers, panner)
          : panner(block.azimuth.value, block.elevation.value);
      const timeline = gainTimeline(item, gainsOf, sampleRateHz, fileFrames);
      return { channel: item.channel, timeline, stretch: next(timeline) };
    });
  }

  /**
   * @param planar the file's next frames, of all its channels
   * @returns of each loudspeaker, in arrays that the next call uses again
   */
  process(planar: readonly Float32Array[], frames: number): readonly Float32Array[] {
    if ((this.#sums[0]?.length ?? 0) < frames) {
      this.#sums = Array.from({ length: this.channels }, () => new Float64Array(frames));
      this.#outputs = this.#sums.map(() => new Float32Array(frames));
    }
    for (const sum of this.#sums) sum.fill(0, 0, frames);
    for (const track of this.#tracks) this.#add(track, planar[track.channel] as Float32Array, frames);
    this.#frame += frames;
    this.#outputs.forEach((output, i) => {
      const sum = this.#sums[i] as Float64Array;
      for (let n = 0; n < frames; n++) output[n] = sum[n] as number;
    });
    return this.#outputs.map((output) => output.subarray(0, frames));
  }

  #add(track: Track, samples: Float32Array, frames: number): void {
    const endFrame = this.#frame + frames;
    for (let { stretch } = track; stretch && stretch.startFrame < endFrame; stretch = track.stretch) {
      const from = Math.max(stretch.startFrame, this.#frame);
      const to = Math.min(stretch.endFrame, endFrame);
      if (to > from) this.#addStretch(stretch, samples, from, to);
      if (stretch.endFrame > endFrame) return;
      track.stretch = next(track.timeline);
    }
  }

  #addStretch(stretch: GainStretch, samples: Float32Array, from: number, to: number): void {
    const { startFrame, startShare, shareOfFrame } = stretch;
    const behind = startShare + shareOfFrame * (from - startFrame);
    const at = from - this.#frame;
    for (let output = 0; output < this.channels; output++) {
      const start = stretch.from[output] as number;
      const change = (stretch.to[output] as number) - start;
      if (start === 0 && change === 0) continue;
      mix(this.#sums[output] as Float64Array, samples, at, to - from, start + change * behind, change * shareOfFrame);
    }
  }
}

/** Adds so many samples from a place on, by a gain that changes by a step with each. */
function mix(sum: Float64Array, samples: Float32Array, at: number, frames: number, gain: number, step: number): void {
  const end = at + frames;
  if (step === 0) {
    for (let n = at; n < end; n++) sum[n] = (sum[n] as number) + gain * (samples[n] as number);
  } else {
    for (let n = at; n < end; n++) sum[n] = (sum[n] as number) + (gain + step * (n - at)) * (samples[n] as number);
  }
}

function next(timeline: Iterator<GainStretch>): GainStretch | undefined {
  const { value, done } = timeline.next();
  return done ? undefined : value;
}
