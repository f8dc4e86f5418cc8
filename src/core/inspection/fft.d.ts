/** The part of this package that is used; it comes without types. */
declare module 'fft.js' {
  export default class FFT {
    /** @param size a power of two */
    constructor(size: number);
    /**
     * Fills the lower half of the spectrum.
     *
     * @param output room for `size` complex numbers, real and imaginary parts in turn
     */
    realTransform(output: Float64Array, input: Float64Array): void;
    /** Fills the upper half of a spectrum from the lower, of which it is the mirror image. */
    completeSpectrum(spectrum: Float64Array): void;
    /** Fills a whole spectrum from complex numbers. */
    transform(output: Float64Array, input: Float64Array): void;
    inverseTransform(output: Float64Array, input: Float64Array): void;
  }
}
