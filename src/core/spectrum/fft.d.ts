declare module 'fft.js' {
  export default class FFT {
    constructor(size: number);
    transform(out: ArrayLike<number>, data: ArrayLike<number>): void;
    /** Complex, scaled by 1/size. */
    inverseTransform(out: ArrayLike<number>, data: ArrayLike<number>): void;
    realTransform(out: ArrayLike<number>, data: ArrayLike<number>): void;
  }
}
