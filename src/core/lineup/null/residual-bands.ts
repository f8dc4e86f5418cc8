import { fftOf } from './fft-of';

/** Centres of octave bands (IEC 61260, from memory). */
const OCTAVES_HZ = [31.5, 63, 125, 250, 500, 1000, 2000, 4000, 8000, 16_000] as const;

/** What is left, by octave and time. */
export interface BandPicture {
  centresHz: readonly number[];
  secondsPerColumn: number;
  /** Of every column, of every octave: dBFS, no less than −160. */
  columnsDbfs: number[][];
}

const BLOCK_FRAMES = 4096;
const FLOOR_DBFS = -160;

/** Adds a signal up by octave and time, as it streams by. */
export class ResidualBands {
  readonly #sampleRateHz: number;
  readonly #framesPerColumn: number;
  readonly #fft = fftOf(BLOCK_FRAMES);
  readonly #window = Float64Array.from({ length: BLOCK_FRAMES }, (_, n) =>
    Math.sin((Math.PI * (n + 0.5)) / BLOCK_FRAMES),
  );
  readonly #windowed = new Float64Array(BLOCK_FRAMES);
  readonly #complex = new Float64Array(2 * BLOCK_FRAMES);
  readonly #pending: Float32Array[];
  readonly #columns: { powers: Float64Array; blocks: number }[] = [];
  #pendingFrames = 0;
  #frame = 0;

  constructor(
    { sampleRateHz, channels, frames }: { sampleRateHz: number; channels: number; frames: number },
    mostColumns = 84,
  ) {
    this.#sampleRateHz = sampleRateHz;
    this.#framesPerColumn = Math.max(BLOCK_FRAMES, Math.ceil(frames / mostColumns));
    this.#pending = Array.from({ length: channels }, () => new Float32Array(BLOCK_FRAMES));
  }

  add(samples: readonly Float32Array[]): void {
    const length = samples[0]?.length ?? 0;
    for (let at = 0; at < length; ) {
      const part = Math.min(length - at, BLOCK_FRAMES - this.#pendingFrames);
      samples.forEach((own, c) => {
        this.#pending[c]?.set(own.subarray(at, at + part), this.#pendingFrames);
      });
      this.#pendingFrames += part;
      at += part;
      if (this.#pendingFrames === BLOCK_FRAMES) this.#block();
    }
  }

  finish(): BandPicture {
    if (this.#pendingFrames > 0) {
      for (const own of this.#pending) own.fill(0, this.#pendingFrames);
      this.#block();
    }
    return {
      centresHz: OCTAVES_HZ,
      secondsPerColumn: this.#framesPerColumn / this.#sampleRateHz,
      columnsDbfs: this.#columns.map(({ powers, blocks }) =>
        Array.from(powers, (power) => Math.max(FLOOR_DBFS, 10 * Math.log10(power / Math.max(1, blocks) + 1e-16))),
      ),
    };
  }

  #block(): void {
    const index = Math.floor(this.#frame / this.#framesPerColumn);
    this.#columns[index] ??= { powers: new Float64Array(OCTAVES_HZ.length), blocks: 0 };
    const column = this.#columns[index] as { powers: Float64Array; blocks: number };
    column.blocks++;
    for (const own of this.#pending) {
      for (let n = 0; n < BLOCK_FRAMES; n++) this.#windowed[n] = (own[n] ?? 0) * (this.#window[n] ?? 0);
      this.#fft.realTransform(this.#complex, this.#windowed);
      for (let k = 1; k < BLOCK_FRAMES / 2; k++) {
        const octave = octaveOf((k * this.#sampleRateHz) / BLOCK_FRAMES);
        if (octave === undefined) continue;
        const [re, im] = [this.#complex[2 * k] ?? 0, this.#complex[2 * k + 1] ?? 0];
        // A sine-shaped window halves the power, both halves of the spectrum double it.
        const power = (4 * (re * re + im * im)) / (BLOCK_FRAMES * BLOCK_FRAMES * this.#pending.length);
        column.powers[octave] = (column.powers[octave] ?? 0) + power;
      }
    }
    this.#frame += BLOCK_FRAMES;
    this.#pendingFrames = 0;
  }
}

/** The octave that a frequency lies in; undefined above and below all of them. */
function octaveOf(hz: number): number | undefined {
  const octave = Math.round(Math.log2(hz / 1000)) + 5;
  return octave < 0 || octave >= OCTAVES_HZ.length ? undefined : octave;
}
