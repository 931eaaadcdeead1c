import { EigenvalueDecomposition, Matrix } from 'ml-matrix';

/** Eigenpairs of a real square matrix: value k is re[k] + j·im[k]; its vector stands in row k of vectorRe and vectorIm, shape [n][n]. */
export interface Eigenpairs {
  re: Float64Array;
  im: Float64Array;
  vectorRe: Float64Array[];
  vectorIm: Float64Array[];
}

/** Eigenvalues and right eigenvectors of a real matrix, by Hessenberg form and shifted QR steps (Golub and Van Loan, Matrix Computations, 7.5).
 *  @param a shape [n][n] */
export function eigenpairs(a: readonly ArrayLike<number>[]): Eigenpairs {
  const n = a.length;
  const evd = new EigenvalueDecomposition(matrixOf(a), { assumeSymmetric: false });
  const [re, im] = [Float64Array.from(evd.realEigenvalues), Float64Array.from(evd.imaginaryEigenvalues)];
  const v = evd.eigenvectorMatrix;
  const column = (k: number, sign = 1) => Float64Array.from({ length: n }, (_, i) => sign * v.get(i, k));
  const vectorRe: Float64Array[] = [];
  const vectorIm: Float64Array[] = [];
  for (let k = 0; k < n; k++) {
    if (im[k] === 0) {
      vectorRe.push(column(k));
      vectorIm.push(new Float64Array(n));
    } else {
      // A pair shares two columns: the real part, then the imaginary part of the one with the positive imaginary value.
      const front = im[k] > 0 ? k : k - 1;
      vectorRe.push(column(front));
      vectorIm.push(column(front + 1, im[k] > 0 ? 1 : -1));
    }
  }
  return { re, im, vectorRe, vectorIm };
}

/** Eigenvalues of a Hermitian matrix in falling order, each with its vector of length 1 (shape [n], row k belongs to value k). Computed by the
 *  real symmetric matrix [[re, −im], [im, re]], in which each value stands twice. @param re shape [n][n] @param im shape [n][n] */
export function hermitian(
  re: readonly ArrayLike<number>[],
  im: readonly ArrayLike<number>[],
): { values: Float64Array; vectorRe: Float64Array[]; vectorIm: Float64Array[] } {
  const n = re.length;
  const twice = Matrix.zeros(2 * n, 2 * n);
  for (let i = 0; i < n; i++)
    for (let k = 0; k < n; k++) {
      // Both halves count, so that rounding in one of them does not tell.
      const [a, b] = [(re[i][k] + re[k][i]) / 2, (im[i][k] - im[k][i]) / 2];
      twice.set(i, k, a).set(n + i, n + k, a).set(i, n + k, -b).set(n + i, k, b); // prettier-ignore
    }
  const evd = new EigenvalueDecomposition(twice, { assumeSymmetric: true });
  const all = evd.realEigenvalues;
  const v = evd.eigenvectorMatrix;
  const order = all.map((_, k) => k).sort((a, b) => all[b] - all[a]);
  const values: number[] = [];
  const vectorRe: Float64Array[] = [];
  const vectorIm: Float64Array[] = [];
  for (const k of order) {
    if (values.length === n) break;
    const x = Float64Array.from({ length: n }, (_, i) => v.get(i, k));
    const y = Float64Array.from({ length: n }, (_, i) => v.get(n + i, k));
    // The second of each pair is the first times j: what is left of it beside those that are there is nothing.
    for (let m = 0; m < values.length; m++) {
      const [p, q] = [vectorRe[m], vectorIm[m]];
      let [cr, ci] = [0, 0];
      for (let i = 0; i < n; i++) {
        cr += p[i] * x[i] + q[i] * y[i];
        ci += p[i] * y[i] - q[i] * x[i];
      }
      for (let i = 0; i < n; i++) {
        x[i] -= cr * p[i] - ci * q[i];
        y[i] -= cr * q[i] + ci * p[i];
      }
    }
    const size = Math.hypot(...x, ...y);
    if (size < 0.3) continue;
    values.push(all[k]);
    vectorRe.push(x.map((t) => t / size));
    vectorIm.push(y.map((t) => t / size));
  }
  return { values: Float64Array.from(values), vectorRe, vectorIm };
}

/** Eigenvalues of a real symmetric matrix in falling order, each with its vector of length 1. */
export function symmetric(a: readonly ArrayLike<number>[]): {
  values: Float64Array;
  vectors: Float64Array[];
} {
  const evd = new EigenvalueDecomposition(matrixOf(a), { assumeSymmetric: true });
  const all = evd.realEigenvalues;
  const order = all.map((_, k) => k).sort((x, y) => all[y] - all[x]);
  return {
    values: Float64Array.from(order, (k) => all[k]),
    vectors: order.map((k) => Float64Array.from(evd.eigenvectorMatrix.getColumn(k))),
  };
}

const matrixOf = (a: readonly ArrayLike<number>[]): Matrix =>
  a instanceof Matrix ? a : new Matrix(a.map((row) => Array.from(row)));
