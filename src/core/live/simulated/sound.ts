/** Invented sound of a line that is none: a small programme of notes and breath, always the same, that never ends. */

const { floor, imul, PI, sin } = Math;

/** One turn of a sine: to ask for each would take longer than to measure what comes of them. */
const TURN = 8192;
const SINE = Float32Array.from({ length: TURN }, (_, i) => sin((2 * PI * i) / TURN));

/** Fundamental tones of the chords, in Hz. */
const ROOTS = [110, 130.81, 98, 146.83, 123.47, 87.31];
/** Above the root, as factors. */
const VOICES = [1, 1.5, 2, 2.52, 3];
const NOTE_SECONDS = 0.5;
const CHORD_NOTES = 8;
const ATTACK_SECONDS = 0.01;
/** So loud that a line reads about −23 LUFS over an hour. */
const LEVEL = 0.1556;
const BREATH = 0.004;
/** Notes whose level changes together: what a short-term reading follows. */
const PHRASE_NOTES = 24;
const QUIETEST_PHRASE = 0.75;

/** A uniform number in [0, 1) for an integer: mulberry32, one step. */
function chance(n: number, salt: number): number {
  let t = (imul(n, 0x9e3779b1) ^ imul(salt, 0x85ebca6b)) >>> 0;
  t = imul(t ^ (t >>> 15), t | 1);
  t ^= t + imul(t ^ (t >>> 7), t | 61);
  return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
}

/**
 * Fills stereo frames of the sound, from a frame of it on.
 *
 * @param seed of the sound: each line has its own
 */
export function simulatedSound(
  [left, right]: readonly [Float32Array, Float32Array],
  startFrame: number,
  frames: number,
  sampleRateHz: number,
  seed: number,
): void {
  const noteFrames = floor(NOTE_SECONDS * sampleRateHz);
  for (let at = 0; at < frames; ) {
    const note = floor((startFrame + at) / noteFrames);
    const end = Math.min(frames, at + (note + 1) * noteFrames - (startFrame + at));
    const root = ROOTS[floor(chance(floor(note / CHORD_NOTES), seed) * ROOTS.length)] ?? 110;
    const phrase = QUIETEST_PHRASE + (1 - QUIETEST_PHRASE) * chance(floor(note / PHRASE_NOTES), seed + 1);
    const level = LEVEL * phrase * (0.7 + 0.3 * chance(note, seed + 2));
    const pan = 0.3 * (chance(note, seed + 3) - 0.5);
    const voices = VOICES.map((factor, v) => ({
      step: (TURN * root * factor * (1 + 0.001 * v)) / sampleRateHz,
      level: 1 / (1 + v),
      side: pan + 0.35 * (v % 2 === 0 ? v / 4 : -v / 4),
    }));
    for (; at < end; at++) {
      const own = startFrame + at - note * noteFrames;
      const seconds = own / sampleRateHz;
      const rise = Math.min(1, seconds / ATTACK_SECONDS, (NOTE_SECONDS - seconds) / ATTACK_SECONDS);
      const envelope = level * rise * (0.35 + 0.65 * Math.exp(-6 * seconds));
      let [l, r] = [0, 0];
      for (const voice of voices) {
        const value = voice.level * (SINE[(voice.step * own) & (TURN - 1)] as number);
        l += value * (1 - voice.side);
        r += value * (1 + voice.side);
      }
      left[at] = envelope * l + BREATH * (chance(startFrame + at, seed + 4) - 0.5);
      right[at] = envelope * r + BREATH * (chance(startFrame + at, seed + 5) - 0.5);
    }
  }
}
