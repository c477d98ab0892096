/** What is used of fft.js. */
declare module 'fft.js' {
  export default class FFT {
    constructor(size: number);
    /** `out` gets re, im of every bin up to half the size (and room for the rest: 2 · size numbers). */
    realTransform(out: Float64Array | number[], data: ArrayLike<number>): void;
    transform(out: Float64Array | number[], data: ArrayLike<number>): void;
    inverseTransform(out: Float64Array | number[], data: ArrayLike<number>): void;
    createComplexArray(): number[];
    completeSpectrum(out: Float64Array | number[]): void;
  }
}
