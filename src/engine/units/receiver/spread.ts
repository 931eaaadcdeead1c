/** A number spread over 31 bits, the same for the same two (multiplication by odd constants and shifts, after Steele et al. 2014). */
export function spread(index: number, seed: number): number {
  let x = (index ^ Math.imul(seed, 0x9e3779b1)) | 0;
  x = Math.imul(x ^ (x >>> 16), 0x85ebca6b);
  x = Math.imul(x ^ (x >>> 13), 0xc2b2ae35);
  return (x ^ (x >>> 16)) >>> 1;
}
