/** What an overview shows of samples: real ones as they are, of complex ones the magnitude √(I² + Q²), NaN where either is missing.
 *  @param data shape [n · width], in phase and in quadrature by turns @returns shape [n]; the same array where they are real */
export function magnitudes(data: Float32Array, width: 1 | 2): Float32Array {
  if (width === 1) return data;
  const out = new Float32Array(data.length / 2);
  for (let i = 0; i < out.length; i++) {
    const [inPhase, quadrature] = [data[2 * i], data[2 * i + 1]];
    out[i] = Math.sqrt(inPhase * inPhase + quadrature * quadrature);
  }
  return out;
}
