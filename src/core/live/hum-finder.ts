import { amplitudeToDb, type Level } from '../units/decibel';

/** Of the mains of either half of the world, and the multiples in which they are heard (common practice, no source). */
const MAINS_HZ = [50, 60];
const MULTIPLES = [1, 2, 3];
/** In Hz, beside a tone: what sounds there too is music, not hum. */
const BESIDE_HZ = [-2, -1, 1, 2];
const LEAST_OVER_BESIDE_DB = 10;
/** Seconds that are compared: a note does not last so long, hum does. */
const COMPARED = 4;
/** How like each other they must be, from 0 to 1, whatever the mains drift from one to the next. */
const LEAST_LIKENESS = 0.95;
/** Samples are added up to so many a second: all that is looked for lies far below. */
const LOOKED_AT_HZ = 3000;

/** Amplitude and phase of a tone in one second. */
interface Phasor {
  re: number;
  im: number;
}

interface Tone {
  sine: number;
  cosine: number;
  state: Phasor;
}

/** Finds a steady tone at the frequency of the mains, or at twice or three times that. */
export class HumFinder {
  readonly #looked: { own: Tone; beside: Tone[]; seconds: (Phasor & { beside: number })[] }[];
  readonly #tones: Tone[];
  readonly #together: number;
  readonly #samplesASecond: number;
  #sum = 0;
  #summed = 0;
  #samples = 0;
  #levelDbfs: Level = null;

  constructor(sampleRateHz: number) {
    this.#together = Math.max(1, Math.floor(sampleRateHz / LOOKED_AT_HZ));
    this.#samplesASecond = Math.round(sampleRateHz / this.#together);
    const tone = (hz: number): Tone => {
      const turn = (2 * Math.PI * hz * this.#together) / sampleRateHz;
      return { sine: Math.sin(turn), cosine: Math.cos(turn), state: { re: 0, im: 0 } };
    };
    this.#looked = MAINS_HZ.flatMap((hz) =>
      MULTIPLES.map((multiple) => ({
        own: tone(hz * multiple),
        beside: BESIDE_HZ.map((beside) => tone(hz * multiple + beside)),
        seconds: [],
      })),
    );
    this.#tones = this.#looked.flatMap(({ own, beside }) => [own, ...beside]);
  }

  /** Of the last whole seconds; null where nothing steady is there. */
  get levelDbfs(): Level {
    return this.#levelDbfs;
  }

  /** Looks at all channels together. */
  process(channels: readonly Float32Array[], frames: number): void {
    for (let i = 0; i < frames; i++) {
      for (let c = 0; c < channels.length; c++) this.#sum += (channels[c] as Float32Array)[i] as number;
      if (++this.#summed < this.#together) continue;
      this.#add(this.#sum / (this.#together * channels.length));
      [this.#sum, this.#summed] = [0, 0];
    }
  }

  /** Discrete Fourier transforms of single frequencies: what has come is turned on by one sample, and the next added. */
  #add(sample: number): void {
    for (const { state, sine, cosine } of this.#tones) {
      const turned = state.re * cosine - state.im * sine + sample;
      state.im = state.re * sine + state.im * cosine;
      state.re = turned;
    }
    if (++this.#samples === this.#samplesASecond) this.#endSecond();
  }

  #endSecond(): void {
    let most = 0;
    for (const { own, beside, seconds } of this.#looked) {
      const amplitudes = beside.map(({ state: { re, im } }) => Math.hypot(re, im));
      seconds.push({ ...own.state, beside: Math.max(...amplitudes) });
      if (seconds.length > COMPARED) seconds.shift();
      if (seconds.length === COMPARED) most = Math.max(most, steadyAmplitude(seconds));
    }
    for (const { state } of this.#tones) [state.re, state.im] = [0, 0];
    this.#levelDbfs = amplitudeToDb((2 * most) / this.#samples);
    this.#samples = 0;
  }
}

/** The least amplitude of all seconds, where each follows from the one before by the same turn and stands out; else 0. */
function steadyAmplitude(seconds: readonly (Phasor & { beside: number })[]): number {
  const leastOver = 10 ** (LEAST_OVER_BESIDE_DB / 20);
  let [re, im, norm, least] = [0, 0, 0, Number.POSITIVE_INFINITY];
  for (const [i, now] of seconds.entries()) {
    const amplitude = Math.hypot(now.re, now.im);
    if (amplitude < leastOver * now.beside) return 0;
    least = Math.min(least, amplitude);
    const before = seconds[i - 1];
    if (!before) continue;
    re += now.re * before.re + now.im * before.im;
    im += now.im * before.re - now.re * before.im;
    norm += amplitude * Math.hypot(before.re, before.im);
  }
  return norm > 0 && Math.hypot(re, im) >= LEAST_LIKENESS * norm ? least : 0;
}
