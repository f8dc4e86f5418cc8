/** The part of this package that is used; it comes without types. */
declare module 'fft.js' {
  export default class FFT {
    /** @param size a power of two */
    constructor(size: number);
    /** Room for `size` complex numbers, real and imaginary parts in turn. */
    createComplexArray(): number[];
    /** Fills the lower half of the spectrum. */
    realTransform(output: number[], input: readonly number[]): void;
  }
}
