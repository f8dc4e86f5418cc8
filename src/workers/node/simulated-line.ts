import { setTimeout as pause } from 'node:timers/promises';
import type { Line, LineGap, LinePart } from '@/codecs/line';
import { AppError } from '@/core/errors/app-error';
import { DRIFT_PPM, DROP_OUT, FAULTS, type FaultKind } from '@/core/live/simulated/faults';
import { simulatedSound } from '@/core/live/simulated/sound';

const SAMPLE_RATE_HZ = 48_000;
const PART_MS = 20;
/** A machine that was busy for longer goes on from where it is then. */
const MOST_BEHIND_SECONDS = 1;
const STEREO_MASK = 0x3;

/** A line that ships with the app: invented sound in real time, with whatever faults are set. */
export class SimulatedLine {
  #faults: readonly FaultKind[];
  readonly #name: string;
  readonly #seed: number;
  /** Goes on where it was when it is opened again, as a sender would. */
  #frame = 0;

  constructor(name: string, seed: number, faults: readonly FaultKind[]) {
    this.#name = name;
    this.#seed = seed;
    this.#faults = faults;
  }

  setFaults(faults: readonly FaultKind[]): void {
    this.#faults = faults;
  }

  /** Throws `line-not-opened` while it is broken. */
  open(onGap: (gap: LineGap) => void): Line {
    if (this.#has('break'))
      throw new AppError('line-not-opened', { line: this.#name, reason: 'it is broken, as was set' });
    const ending = new AbortController();
    return {
      format: { sampleRateHz: SAMPLE_RATE_HZ, channels: 2, channelMask: STEREO_MASK },
      parts: this.#parts(onGap, ending.signal),
      end: () => ending.abort(),
    };
  }

  async *#parts(onGap: (gap: LineGap) => void, signal: AbortSignal): AsyncGenerator<LinePart> {
    const channels: [Float32Array, Float32Array] = [new Float32Array(0), new Float32Array(0)];
    const startFrame = this.#frame;
    let lastMs = performance.now();
    let due = 0;
    while (!signal.aborted) {
      await pause(PART_MS);
      if (this.#has('break')) {
        throw new AppError('line-lost', { line: this.#name, reason: 'it is broken, as was set' });
      }
      const nowMs = performance.now();
      const rateHz = SAMPLE_RATE_HZ * (this.#has('clock-drift') ? 1 + DRIFT_PPM / 1e6 : 1);
      due = Math.min(due + ((nowMs - lastMs) / 1000) * rateHz, MOST_BEHIND_SECONDS * SAMPLE_RATE_HZ);
      lastMs = nowMs;
      const frames = Math.floor(due);
      due -= frames;
      if (channels[0].length < frames) for (const c of [0, 1] as const) channels[c] = new Float32Array(frames);
      simulatedSound(channels, this.#frame, frames, SAMPLE_RATE_HZ, this.#seed);
      for (const { kind, spoil } of FAULTS) {
        if (this.#has(kind)) spoil?.(channels, this.#frame, frames, SAMPLE_RATE_HZ);
      }
      if (this.#has('drop-outs')) this.#dropOut(channels, frames, startFrame, onGap);
      this.#frame += frames;
      yield { channels, frames };
    }
  }

  /** Frames that never came are silence, and told, as those of any line are. */
  #dropOut(channels: readonly Float32Array[], frames: number, startFrame: number, onGap: (gap: LineGap) => void): void {
    const period = DROP_OUT.everySeconds * SAMPLE_RATE_HZ;
    const length = DROP_OUT.seconds * SAMPLE_RATE_HZ;
    for (let i = 0; i < frames; i++) {
      const place = (this.#frame + i) % period;
      if (place === 0) onGap({ startFrame: this.#frame + i - startFrame, frames: length });
      if (place < length) for (const samples of channels) samples[i] = 0;
    }
  }

  #has(kind: FaultKind): boolean {
    return this.#faults.includes(kind);
  }
}
