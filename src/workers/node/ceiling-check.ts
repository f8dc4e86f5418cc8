import type { Excess, Limiter } from '@/core/limiter/limiter';
import { nodeFrames, PeakEnvelope } from '@/core/limiter/peak-envelope';
import { PIECE_FRAMES } from '@/formats/pcm-reader';
import { KernelSearcher } from '@/kernels/limiter-kernel';

/** Looks for what a limiter has left above its ceiling. */
export class CeilingCheck {
  readonly #envelope: PeakEnvelope;
  readonly #excesses: Excess[] = [];
  #node: number;

  /** @param startFrame of the first frame that it will be given, on a node */
  constructor(limiter: Limiter, sampleRateHz: number, channels: number, startFrame = 0) {
    this.#node = startFrame / nodeFrames(sampleRateHz);
    this.#envelope = new PeakEnvelope({
      sampleRateHz,
      groups: limiter.groups.map((group) => group.channels),
      floor: limiter.ceiling,
      maxFrames: PIECE_FRAMES,
      searcher: new KernelSearcher({ sampleRateHz, channels, maxFrames: PIECE_FRAMES }),
    });
  }

  process(channels: readonly Float32Array[], frames: number): void {
    this.#take(this.#envelope.process(channels, frames));
  }

  finish(): Excess[] {
    this.#take(this.#envelope.finish());
    return this.#excesses;
  }

  #take(nodes: readonly Float32Array[]): void {
    nodes.forEach((own, group) => {
      own.forEach((peak, k) => {
        if (peak > 0) this.#excesses.push({ group, node: this.#node + k, peak });
      });
    });
    this.#node += nodes[0]?.length ?? 0;
  }
}
