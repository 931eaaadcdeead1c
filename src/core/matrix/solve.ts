/** Solves a · x = b for a symmetric, positive definite matrix by Cholesky’s factors, each column first brought to one size. Where a column is so
 *  nearly made of the ones before it that nothing is left of it, it is left out (its unknown is 0), so that a matrix of less than full rank
 *  gives a basic solution rather than noise.
 *  @param a shape [n][n] @param b shape [n][m] @returns x, shape [n][m], and the rank that was found */
export function solveSymmetric(
  a: readonly Float64Array[],
  b: readonly Float64Array[],
): { x: Float64Array[]; rank: number } {
  const n = a.length;
  const m = b[0]?.length ?? 0;
  const size = Float64Array.from(a, (row, i) => (row[i] > 0 ? 1 / Math.sqrt(row[i]) : 0));
  const factor = a.map((row, i) => Float64Array.from(row, (v, k) => v * size[i] * size[k]));
  const kept = new Uint8Array(n);
  let rank = 0;
  for (let j = 0; j < n; j++) {
    const own = factor[j];
    let left = own[j];
    for (let k = 0; k < j; k++) left -= own[k] * own[k];
    if (!(left > NOTHING)) {
      own.fill(0, 0, j);
      own[j] = 1;
      for (let i = j + 1; i < n; i++) factor[i][j] = 0;
      continue;
    }
    kept[j] = 1;
    rank++;
    const pivot = Math.sqrt(left);
    own[j] = pivot;
    for (let i = j + 1; i < n; i++) {
      const row = factor[i];
      let sum = row[j];
      for (let k = 0; k < j; k++) sum -= row[k] * own[k];
      row[j] = sum / pivot;
    }
  }
  const x = b.map((row, i) => Float64Array.from(row, (v) => (kept[i] ? v * size[i] : 0)));
  for (let i = 0; i < n; i++) {
    const [xi, row] = [x[i], factor[i]];
    for (let k = 0; k < i; k++) if (row[k] !== 0) for (let c = 0; c < m; c++) xi[c] -= row[k] * x[k][c];
    for (let c = 0; c < m; c++) xi[c] = kept[i] ? xi[c] / row[i] : 0;
  }
  for (let i = n - 1; i >= 0; i--) {
    const xi = x[i];
    for (let k = i + 1; k < n; k++)
      if (factor[k][i] !== 0) for (let c = 0; c < m; c++) xi[c] -= factor[k][i] * x[k][c];
    for (let c = 0; c < m; c++) xi[c] = kept[i] ? xi[c] / factor[i][i] : 0;
  }
  for (let i = 0; i < n; i++) for (let c = 0; c < m; c++) x[i][c] *= size[i];
  return { x, rank };
}

/** What of a column of size 1 counts as nothing. */
const NOTHING = 1e-13;

/** Solves a · x = b for a complex square matrix by elimination with the largest pivot; both are used up.
 *  @param re shape [n][n] @param im shape [n][n] @param bRe shape [n][m] @param bIm shape [n][m]
 *  @returns whether the matrix has full rank; x stands in bRe and bIm */
export function solveComplex(
  re: Float64Array[],
  im: Float64Array[],
  bRe: Float64Array[],
  bIm: Float64Array[],
): boolean {
  const n = re.length;
  const m = bRe[0]?.length ?? 0;
  const take = (to: number, from: number, fr: number, fi: number, first: number) => {
    const rows = [[re, im, first, n] as const, [bRe, bIm, 0, m] as const];
    for (const [x, y, begin, end] of rows) {
      const [xr, xi, yr, yi] = [x[from], y[from], x[to], y[to]];
      for (let k = begin; k < end; k++) {
        yr[k] -= fr * xr[k] - fi * xi[k];
        yi[k] -= fr * xi[k] + fi * xr[k];
      }
    }
  };
  for (let j = 0; j < n; j++) {
    let best = j;
    for (let i = j + 1; i < n; i++)
      if (re[i][j] ** 2 + im[i][j] ** 2 > re[best][j] ** 2 + im[best][j] ** 2) best = i;
    for (const rows of [re, im, bRe, bIm]) [rows[j], rows[best]] = [rows[best], rows[j]];
    const size = re[j][j] ** 2 + im[j][j] ** 2;
    if (!(size > 1e-280)) return false;
    for (let i = 0; i < n; i++) {
      if (i === j) continue;
      const fr = (re[i][j] * re[j][j] + im[i][j] * im[j][j]) / size;
      const fi = (im[i][j] * re[j][j] - re[i][j] * im[j][j]) / size;
      if (fr !== 0 || fi !== 0) take(i, j, fr, fi, j);
    }
  }
  for (let j = 0; j < n; j++) {
    const size = re[j][j] ** 2 + im[j][j] ** 2;
    for (let c = 0; c < m; c++) {
      const [x, y] = [bRe[j][c], bIm[j][c]];
      bRe[j][c] = (x * re[j][j] + y * im[j][j]) / size;
      bIm[j][c] = (y * re[j][j] - x * im[j][j]) / size;
    }
  }
  return true;
}
