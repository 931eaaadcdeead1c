/** Pairs of columns whose cosine is smaller than this stand at right angles. */
const UPRIGHT = 1e-14;
const SWEEPS = 40;

/** Singular values in falling order with left and right vectors: a = u · diag(s) · vᵀ. The matrix is first made triangular by reflections, with the longest
 *  column in front each time; the rows of the triangle are then turned against each other, two at a time, until all stand at right angles (one-sided
 *  Jacobi: Hestenes, J. SIAM 6, 1958; de Rijk, SIAM J. Sci. Stat. Comput. 10, 1989; on the triangle: Drmač and Veselić, SIAM J. Matrix Anal. Appl. 29, 2008).
 *  Small values are as exact as large ones. Vectors of values that are 0 are 0.
 *  @param a shape [rows][columns] @param most vectors that are wanted, of the largest values
 *  @returns u [rows][k], s, v [columns][k]: k the smaller of rows and columns, vectors no more than wanted */
export function singular(
  a: readonly ArrayLike<number>[],
  most = Infinity,
): {
  u: Float64Array[];
  s: Float64Array;
  v: Float64Array[];
} {
  const [m, n] = [a.length, a[0]?.length ?? 0];
  const tall = m >= n;
  // Columns of the tall one: each lies in one piece.
  const columns = tall
    ? Array.from({ length: n }, (_, k) => Float64Array.from({ length: m }, (_, i) => a[i][k]))
    : a.map((row) => Float64Array.from(row));
  const k = columns.length;
  // Twice: what is left is then nearly a diagonal, and few sweeps are enough.
  const first = triangle(columns);
  const second = triangle(first.rows);
  const { values, turns, sides } = uprighted(second.rows);
  const some = Math.min(k, most);
  const long = tall ? m : n;
  const left = sides.slice(0, some).map((side) => {
    const out = new Float64Array(long);
    second.order.forEach((at, i) => (out[at] = side[i]));
    first.reflect(out);
    return out;
  });
  const right = turns.slice(0, some).map((turn) => {
    second.reflect(turn);
    const out = new Float64Array(k);
    first.order.forEach((at, i) => (out[at] = turn[i]));
    return out;
  });
  const rowsOf = (vectors: Float64Array[], count: number) =>
    Array.from({ length: count }, (_, i) => Float64Array.from({ length: some }, (_, j) => vectors[j][i]));
  const [u, v] = tall ? [left, right] : [right, left];
  return { u: rowsOf(u, m), s: values, v: rowsOf(v, n) };
}

/** a·P = Q·R by Householder reflections, columns by their length. @param columns are used up
 *  @returns where each column of R stood, rows of R, and Q times a vector, in its place */
function triangle(columns: Float64Array[]) {
  const n = columns.length;
  const order = Array.from({ length: n }, (_, k) => k);
  const rows = Array.from({ length: n }, () => new Float64Array(n));
  const reflectors: { from: number; w: Float64Array }[] = [];
  const lengths = columns.map((c) => dot(c, c, 0));
  const first = Float64Array.from(lengths);
  for (let k = 0; k < n; k++) {
    let longest = k;
    for (let j = k + 1; j < n; j++) if (lengths[j] > lengths[longest]) longest = j;
    swap(columns, k, longest);
    swap(order, k, longest);
    swap(lengths, k, longest);
    swap(first, k, longest);
    for (let i = 0; i < k; i++) swap(rows[i], k, longest);
    const c = columns[k];
    const size = Math.sqrt(dot(c, c, k));
    if (size === 0) break; // nothing is left of the others either
    const head = c[k] > 0 ? -size : size;
    // w·wᵀ is taken off: w has the length √2.
    const w = c.slice(k);
    w[0] -= head;
    const scale = 1 / Math.sqrt(size * (size + Math.abs(c[k])));
    for (let i = 0; i < w.length; i++) w[i] *= scale;
    reflectors.push({ from: k, w });
    rows[k][k] = head;
    for (let j = k + 1; j < n; j++) {
      const d = columns[j];
      mirror(d, k, w);
      rows[k][j] = d[k];
      lengths[j] -= d[k] * d[k];
      // What is taken off again and again is not known any more: counted anew.
      if (lengths[j] < 1e-10 * first[j]) lengths[j] = first[j] = dot(d, d, k + 1);
    }
  }
  const reflect = (x: Float64Array): void => {
    for (let k = reflectors.length - 1; k >= 0; k--) mirror(x, reflectors[k].from, reflectors[k].w);
  };
  return { order, rows, reflect };
}

/** Turns rows against each other until they stand at right angles. @param rows are turned @returns their lengths in falling order; how they were turned, and their directions */
function uprighted(rows: Float64Array[]) {
  const n = rows.length;
  const turns = rows.map((_, k) => Float64Array.from({ length: n }, (_, i) => (i === k ? 1 : 0)));
  for (let sweep = 0; sweep < SWEEPS; sweep++) {
    const lengths = Float64Array.from(rows, (r) => dot(r, r, 0));
    let turned = 0;
    for (let p = 0; p < n - 1; p++) {
      let longest = p;
      for (let j = p + 1; j < n; j++) if (lengths[j] > lengths[longest]) longest = j;
      swap(rows, p, longest);
      swap(turns, p, longest);
      swap(lengths, p, longest);
      for (let q = p + 1; q < n; q++) {
        const [x, y] = [lengths[p], lengths[q]];
        if (y <= 0 || x <= 0) continue;
        const xy = dot(rows[p], rows[q], 0);
        if (Math.abs(xy) <= UPRIGHT * Math.sqrt(x * y)) continue;
        const half = (y - x) / (2 * xy);
        const t = (half >= 0 ? 1 : -1) / (Math.abs(half) + Math.sqrt(1 + half * half));
        const c = 1 / Math.sqrt(1 + t * t);
        turn(rows[p], rows[q], c, c * t);
        turn(turns[p], turns[q], c, c * t);
        lengths[p] = x - t * xy;
        lengths[q] = y + t * xy;
        turned++;
      }
    }
    if (turned === 0) break;
  }
  const sizes = rows.map((r) => Math.sqrt(dot(r, r, 0)));
  const by = sizes.map((_, k) => k).sort((i, j) => sizes[j] - sizes[i]);
  return {
    values: Float64Array.from(by, (k) => sizes[k]),
    turns: by.map((k) => turns[k]),
    sides: by.map((k) => (sizes[k] > 0 ? rows[k].map((v) => v / sizes[k]) : rows[k])),
  };
}

/** Four sums side by side: one alone would wait for itself. */
function dot(x: Float64Array, y: Float64Array, from: number, behind = 0): number {
  let [a, b, c, d] = [0, 0, 0, 0];
  const n = x.length;
  let i = from;
  for (; i + 3 < n; i += 4) {
    a += x[i] * y[i + behind];
    b += x[i + 1] * y[i + 1 + behind];
    c += x[i + 2] * y[i + 2 + behind];
    d += x[i + 3] * y[i + 3 + behind];
  }
  for (; i < n; i++) a += x[i] * y[i + behind];
  return a + b + (c + d);
}
function mirror(x: Float64Array, from: number, w: Float64Array): void {
  const sum = dot(w, x, 0, from);
  if (sum === 0) return;
  for (let i = 0; i < w.length; i++) x[from + i] -= sum * w[i];
}
function turn(x: Float64Array, y: Float64Array, c: number, s: number): void {
  for (let i = 0; i < x.length; i++) {
    const a = x[i];
    const b = y[i];
    x[i] = c * a - s * b;
    y[i] = s * a + c * b;
  }
}
function swap<T>(list: Record<number, T>, i: number, j: number): void {
  [list[i], list[j]] = [list[j], list[i]];
}
