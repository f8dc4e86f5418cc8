import FFT from 'fft.js';
import { Quantiser } from '@/core/treatment/steps/dither';

const POINTS = 4096;
const BLOCKS = 400;

/** Density of a dither's error in dB of a step squared over all frequencies, by line of the spectrum. */
export function errorSpectrum(dither: 'tpdf' | 'shaped'): number[] {
  const quantiser = new Quantiser(dither, 0);
  const fft = new FFT(POINTS);
  const power = new Float64Array(POINTS / 2);
  for (let block = 0; block < BLOCKS; block++) {
    const errors = Float64Array.from({ length: POINTS }, (_, n) => {
      const value = 300 * Math.sin(0.0773 * (block * POINTS + n));
      const window = 1 - Math.cos((2 * Math.PI * n) / POINTS);
      return window * (quantiser.quantise(value) - value);
    });
    const lines = new Float64Array(2 * POINTS);
    fft.realTransform(lines, errors);
    for (let k = 0; k < POINTS / 2; k++) {
      power[k] = (power[k] as number) + ((lines[2 * k] as number) ** 2 + (lines[2 * k + 1] as number) ** 2) / BLOCKS;
    }
  }
  // The window's own power is 3/2 a sample.
  return Array.from(power, (p) => 10 * Math.log10(p / (1.5 * POINTS)));
}
