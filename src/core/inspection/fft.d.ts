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
  }
}
