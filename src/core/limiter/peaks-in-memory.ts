import { amplitudeToDb } from '../units/decibel';
import { FINE_NODES, type FineEnergies } from './fine-energy';
import type { FineSource } from './forecast';
import type { NodePeaks } from './gain-curve';
import { nodeFrames } from './peak-envelope';

/** dBTP of linear peaks; −∞ for those that are no more than a floor. */
export function peaksInDb(peaks: Float32Array, floor = 0): Float32Array {
  return peaks.map((peak) => (peak > floor ? (amplitudeToDb(peak) as number) : Number.NEGATIVE_INFINITY));
}

/** Of every fine node, the greatest peak of its nodes. */
export function finePeaks(peaks: Float32Array): Float32Array {
  return Float32Array.from({ length: Math.ceil(peaks.length / FINE_NODES) }, (_, fine) => {
    let greatest = Number.NEGATIVE_INFINITY;
    const end = Math.min(peaks.length, (fine + 1) * FINE_NODES);
    for (let k = fine * FINE_NODES; k < end; k++) greatest = Math.max(greatest, peaks[k] as number);
    return greatest;
  });
}

/** Peaks of a programme's nodes that are all in memory, one array for each group, in dBTP. */
export class PeaksInMemory implements NodePeaks {
  readonly length: number;
  readonly nodesPerSecond: number;
  readonly domains: readonly number[];
  readonly #peaks: readonly Float32Array[];

  constructor(peaks: readonly Float32Array[], nodesPerSecond: number, domains: readonly number[] = [0]) {
    this.#peaks = peaks;
    this.length = peaks[0]?.length ?? 0;
    this.nodesPerSecond = nodesPerSecond;
    this.domains = domains;
  }

  read(group: number, from: number, to: number): Float32Array {
    return (this.#peaks[group] as Float32Array).subarray(from, to);
  }
}

/** What a limiter is forecast with, all in memory. */
export class FineInMemory extends PeaksInMemory implements FineSource {
  readonly #energies: FineEnergies;

  constructor(peaks: Float32Array, energies: FineEnergies, sampleRateHz: number) {
    super([peaks], sampleRateHz / (FINE_NODES * nodeFrames(sampleRateHz)));
    this.#energies = energies;
  }

  readEnergies(from: number, to: number): FineEnergies {
    const { weighted, plain } = this.#energies;
    return { weighted: weighted.subarray(from, to), plain: plain.subarray(from, to) };
  }
}
