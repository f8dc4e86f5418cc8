/** Loudness as players turn it to: tags that say by how much, so that the samples need not be touched. */

/**
 * ReplayGain 2.0 turns programmes to −18 LUFS (its specification, from memory); R128 gains of Opus to −23 LUFS (RFC 7845,
 * 5.2.1).
 */
const REPLAY_GAIN_LUFS = -18;
const R128_LUFS = -23;

/** Gain in dB, to hundredths as it is written. */
export function replayGainDb(integratedLufs: number): number {
  return Math.round(100 * (REPLAY_GAIN_LUFS - integratedLufs)) / 100;
}

/** Gain in 1/256 dB, within the 16 bits that it is given. */
export function r128GainQ8(integratedLufs: number): number {
  return Math.max(-32_768, Math.min(32_767, Math.round(256 * (R128_LUFS - integratedLufs))));
}
