/** A level in a logarithmic unit, or null for silence: a level never is −Infinity or NaN. */
export type Level = number | null;

/** Level of a linear amplitude, in dB re 1.0; null for zero. */
export function amplitudeToDb(amplitude: number): Level {
  return amplitude > 0 ? 20 * Math.log10(amplitude) : null;
}

/** Level of a mean square or power, in dB re 1.0; null for zero. */
export function powerToDb(power: number): Level {
  return power > 0 ? 10 * Math.log10(power) : null;
}

/** Linear amplitude of a gain in dB. */
export function dbToAmplitude(db: number): number {
  return 10 ** (db / 20);
}

/** Linear power of a gain in dB. */
export function dbToPower(db: number): number {
  return 10 ** (db / 10);
}

/** A level moved by a gain; silence stays silence. */
export function addGain(level: Level, gainDb: number): Level {
  return level === null ? null : level + gainDb;
}
