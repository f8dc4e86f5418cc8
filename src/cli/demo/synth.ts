/** Invented sound for the demo: a small orchestra of sines and noise, and something that talks. Seeded, so always the same. */
import { seededRandom } from './random';

const { abs, cos, exp, floor, max, min, PI, sin, tanh } = Math;
const TAU = 2 * PI;

export type Planar = Float32Array[];

function silence(channels: number, frames: number): Planar {
  return Array.from({ length: channels }, () => new Float32Array(frames));
}

/** With ends that die away over so many seconds. */
export function dyingAway(planar: Planar, seconds: number, sampleRateHz: number): Planar {
  const frames = seconds * sampleRateHz;
  return planar.map((samples) => samples.map((x, n) => x * min(1, (samples.length - n) / frames) ** 2));
}

/** Scales so that the highest sample stands at `peak`. */
export function normalise(planar: Planar, peak: number): Planar {
  let highest = 0;
  for (const samples of planar) for (const x of samples) highest = max(highest, abs(x));
  for (const samples of planar)
    for (let i = 0; i < samples.length; i++) samples[i] = ((samples[i] ?? 0) * peak) / highest;
  return planar;
}

/** A stretch of music: from which second on, how loud, and how dense the percussion. */
export interface Section {
  startSeconds: number;
  level: number;
  drums: number;
}

const CHORDS = [
  [110, 164.81, 220, 261.63, 329.63],
  [87.31, 130.81, 174.61, 220, 349.23],
  [98, 146.83, 196, 246.94, 293.66],
  [82.41, 123.47, 164.81, 207.65, 329.63],
];
const BEAT_SECONDS = 0.5;
const CHORD_BEATS = 8;

/** A small orchestra: what each of its voices plays at a frame. */
class Orchestra {
  padLeft = 0;
  padRight = 0;
  pluck = 0;
  bass = 0;
  kick = 0;
  snare = 0;
  readonly #sampleRateHz: number;
  readonly #random: () => number;
  /** Its key, as a factor on every frequency. */
  readonly #key: number;

  constructor(sampleRateHz: number, seed: number, key = 1) {
    this.#sampleRateHz = sampleRateHz;
    this.#random = seededRandom(seed);
    this.#key = key;
  }

  play(frame: number): void {
    const t = frame / this.#sampleRateHz;
    const key = this.#key;
    const beat = t / BEAT_SECONDS;
    const chord = CHORDS[floor(beat / CHORD_BEATS) % CHORDS.length] ?? [];
    const inBeat = (beat % 1) * BEAT_SECONDS;
    this.padLeft = 0;
    this.padRight = 0;
    for (let n = 1; n < chord.length; n++) {
      const phase = TAU * (chord[n] ?? 0) * key * t;
      this.padLeft += sin(phase + 0.6 * sin(TAU * 0.13 * t + n));
      this.padRight += sin(phase + 0.6 * sin(TAU * 0.11 * t + n + 2));
    }
    const figure = (chord[1 + (floor(beat * 2) % (chord.length - 1))] ?? 0) * 2 * key;
    this.pluck = sin(TAU * figure * t) * exp(-((beat * 2) % 1) * 3);
    const root = (chord[0] ?? 0) * key;
    this.bass = sin(TAU * root * 0.5 * t + 0.8 * sin(TAU * root * t));
    this.kick = sin(TAU * 52 * inBeat * (1 + 1.2 * exp(-inBeat * 30))) * exp(-inBeat * 11);
    const noise = this.#random() - 0.5;
    const isSnare = floor(beat) % 2 === 1;
    this.snare = isSnare ? noise * exp(-inBeat * 16) : noise * 0.3 * exp(-((inBeat * 2) % BEAT_SECONDS) * 60);
  }
}

/**
 * Music for `seconds`: pads under a plucked figure, a bass, and drums where a section has them; spread over two
 * channels, saturated a little as mixes are, and faded out over the last four seconds.
 */
export function music(
  seconds: number,
  sampleRateHz: number,
  sections: readonly Section[],
  seed: number,
  key?: number,
): Planar {
  const frames = floor(seconds * sampleRateHz);
  const [left, right] = silence(2, frames) as [Float32Array, Float32Array];
  const orchestra = new Orchestra(sampleRateHz, seed, key);
  let level = sections[0]?.level ?? 1;
  for (let i = 0; i < frames; i++) {
    const t = i / sampleRateHz;
    const section = sectionAt(sections, t);
    level += (section.level - level) * (1.5 / sampleRateHz);
    orchestra.play(i);
    const { padLeft, padRight, pluck, bass, kick, snare } = orchestra;
    const drums = section.drums * (kick * 0.55 + snare * 0.75);
    const body = 0.22 * bass + drums;
    const fade = min(1, (seconds - t) / 4, t / 0.05);
    left[i] = fade * tanh(level * (0.09 * padLeft + 0.14 * pluck + body));
    right[i] = fade * tanh(level * (0.09 * padRight + 0.1 * pluck + body));
  }
  return [left, right];
}

export const STEMS = ['pads', 'strings', 'bass', 'drums'] as const;

/** One stem of a mix of such music; the four add up to the mix. */
export function stem(name: (typeof STEMS)[number], seconds: number, sampleRateHz: number, seed: number): Planar {
  const frames = floor(seconds * sampleRateHz);
  const [left, right] = silence(2, frames) as [Float32Array, Float32Array];
  const orchestra = new Orchestra(sampleRateHz, seed);
  for (let i = 0; i < frames; i++) {
    const t = i / sampleRateHz;
    const fade = 0.5 * min(1, (seconds - t) / 4, t / 0.05);
    orchestra.play(i);
    const { padLeft, padRight, pluck, bass, kick, snare } = orchestra;
    const drums = 0.5 * kick + 0.6 * snare;
    const [l, r] = {
      pads: [0.09 * padLeft, 0.09 * padRight],
      strings: [0.14 * pluck, 0.1 * pluck],
      bass: [0.2 * bass, 0.2 * bass],
      drums: [drums, 0.9 * drums],
    }[name] as [number, number];
    left[i] = fade * l;
    right[i] = fade * r;
  }
  return [left, right];
}

function sectionAt(sections: readonly Section[], t: number): Section {
  let current = sections[0] as Section;
  for (const section of sections) if (section.startSeconds <= t) current = section;
  return current;
}

/** First three formants of five vowels, in Hz (textbook values, rounded). */
const VOWELS = [
  [730, 1090, 2440],
  [530, 1840, 2480],
  [270, 2290, 3010],
  [570, 840, 2410],
  [300, 870, 2240],
] as const;

/**
 * Something that talks for `seconds`: a buzz through moving formants in syllables, words and breaths, uneven in level
 * from sentence to sentence, over a quiet room.
 */
export function speech(seconds: number, sampleRateHz: number, seed: number): Float32Array {
  const frames = floor(seconds * sampleRateHz);
  const samples = new Float32Array(frames);
  const random = seededRandom(seed);
  const resonators = [0, 1, 2].map(() => ({ y1: 0, y2: 0, a1: 0, a2: 0, gain: 0 }));
  let syllableEnd = 0;
  let syllableStart = 0;
  let isPause = true;
  let isHiss = false;
  let pitchHz = 118;
  let sentenceLevel = 1;
  let left = 0;
  let phase = 0;
  for (let i = 0; i < frames; i++) {
    if (i >= syllableEnd) {
      syllableStart = i;
      if (left <= 0) {
        isPause = true;
        left = 9 + floor(random() * 14);
        sentenceLevel = 0.45 + 0.75 * random();
        syllableEnd = i + floor((0.45 + 0.7 * random()) * sampleRateHz);
      } else {
        isPause = false;
        isHiss = random() < 0.22;
        left--;
        syllableEnd = i + floor((isHiss ? 0.07 : 0.11 + 0.13 * random()) * sampleRateHz);
        pitchHz = 96 + 46 * random();
        const vowel = VOWELS[floor(random() * VOWELS.length)] as readonly number[];
        for (const [n, resonator] of resonators.entries()) {
          tune(resonator, vowel[n] ?? 0, 70 + 40 * n, sampleRateHz);
        }
      }
    }
    const room = (random() - 0.5) * 0.0011;
    if (isPause) {
      samples[i] = room;
      continue;
    }
    const progress = (i - syllableStart) / (syllableEnd - syllableStart);
    const envelope = sin(PI * progress) ** 0.6;
    phase = (phase + (pitchHz * (1 - 0.12 * progress)) / sampleRateHz) % 1;
    const buzz = phase < 0.12 ? 1 - cos((TAU * phase) / 0.12) : -0.14;
    const excitation = isHiss ? 0 : buzz;
    let voice = 0;
    for (const resonator of resonators) {
      const y = resonator.gain * excitation - resonator.a1 * resonator.y1 - resonator.a2 * resonator.y2;
      resonator.y2 = resonator.y1;
      resonator.y1 = y;
      voice += y;
    }
    // Now and then the first sound of a sentence hits the microphone: the peaks that stand far above the talk.
    const isPop = left > 17 && i - syllableStart < 0.03 * sampleRateHz;
    const pop = isPop ? 7 * sin((TAU * 70 * (i - syllableStart)) / sampleRateHz) : 0;
    const hiss = isHiss ? (random() - 0.5) * 0.25 : 0;
    samples[i] = sentenceLevel * envelope * (voice * 0.5 + hiss) + pop + room;
  }
  return samples;
}

function tune(
  resonator: { a1: number; a2: number; gain: number },
  hz: number,
  bandwidthHz: number,
  sampleRateHz: number,
) {
  const radius = exp((-PI * bandwidthHz) / sampleRateHz);
  resonator.a1 = -2 * radius * cos((TAU * hz) / sampleRateHz);
  resonator.a2 = radius * radius;
  resonator.gain = 1 - radius;
}

const PARTIALS = [1, 1.5, 2, 2.25, 3, 4];

/** A slow bed of sound for `seconds`: drifting chords without a beat. */
export function ambience(seconds: number, sampleRateHz: number): Planar {
  const frames = floor(seconds * sampleRateHz);
  const [left, right] = silence(2, frames) as [Float32Array, Float32Array];
  for (let i = 0; i < frames; i++) {
    const t = i / sampleRateHz;
    const fade = min(1, t / 6, (seconds - t) / 8);
    let l = 0;
    let r = 0;
    for (let n = 0; n < PARTIALS.length; n++) {
      const hz = 82.41 * (PARTIALS[n] ?? 0);
      const swell = 0.55 + 0.45 * sin(TAU * t * (0.03 + 0.011 * n) + n * 1.7);
      l += (swell * sin(TAU * hz * t + 0.4 * sin(TAU * 0.2 * t))) / (n + 2);
      r += (swell * sin(TAU * (hz + 0.35) * t)) / (n + 2);
    }
    left[i] = fade * l * 0.2;
    right[i] = fade * r * 0.2;
  }
  return [left, right];
}
