/** Result of a least-squares fit. */
export interface Fit {
  readonly x: readonly number[];
  /** Half the sum of squares at `x`. */
  readonly cost: number;
  /** J^T J at `x`, row-major n x n. */
  readonly normal: readonly number[];
}

/**
 * Minimises half the sum of squares of `residuals(x)` by Levenberg-Marquardt with central differences.
 *
 * @param residuals maps n parameters to m residuals, m >= 1; must be finite near the start
 * @param start n values
 * @param step one difference step a parameter
 * @returns the best point found; never throws on contradictory residuals
 * Source: Marquardt 1963; Madsen, Nielsen, Tingleff 2004, Methods for non-linear least squares problems, algorithm 3.16.
 */
export function levenbergMarquardt(
  residuals: (x: readonly number[]) => readonly number[],
  start: readonly number[],
  step: readonly number[],
  maxRounds = 40,
): Fit {
  const n = start.length;
  let x = [...start];
  let r = residuals(x);
  let cost = halfSquares(r);
  let lambda = 1e-3;
  let { normal, gradient } = normalEquations(residuals, x, r, step);
  for (let round = 0; round < maxRounds; round += 1) {
    const damped = normal.map((value, k) => (k % (n + 1) === 0 ? value * (1 + lambda) + 1e-15 : value));
    const delta = solveLinear(
      damped,
      gradient.map((g) => -g),
    );
    if (!delta) {
      lambda *= 10;
      if (lambda > 1e10) break;
      continue;
    }
    const trial = x.map((value, k) => value + (delta[k] ?? 0));
    const rTrial = residuals(trial);
    const trialCost = halfSquares(rTrial);
    if (trialCost <= cost && Number.isFinite(trialCost)) {
      const small = Math.max(...delta.map((d, k) => Math.abs(d) / (step[k] ?? 1))) < 1e-7 || cost - trialCost <= 1e-16 * cost;
      x = trial;
      r = rTrial;
      cost = trialCost;
      lambda = Math.max(lambda / 10, 1e-12);
      ({ normal, gradient } = normalEquations(residuals, x, r, step));
      if (small) break;
    } else {
      lambda *= 8;
      if (lambda > 1e10) break;
    }
  }
  return { x, cost, normal };
}

const halfSquares = (r: readonly number[]): number => r.reduce((sum, value) => sum + value * value, 0) / 2;

function normalEquations(
  residuals: (x: readonly number[]) => readonly number[],
  x: readonly number[],
  r: readonly number[],
  step: readonly number[],
): { normal: number[]; gradient: number[] } {
  const n = x.length;
  const columns = x.map((value, k) => {
    const h = step[k] ?? 1e-6;
    const at = (shift: number): readonly number[] => residuals(x.map((v, j) => (j === k ? value + shift : v)));
    const [plus, minus] = [at(h), at(-h)];
    return plus.map((p, i) => (p - (minus[i] ?? 0)) / (2 * h));
  });
  const dot = (a: readonly number[], b: readonly number[]): number => a.reduce((sum, value, i) => sum + value * (b[i] ?? 0), 0);
  const normal: number[] = [];
  for (let i = 0; i < n; i += 1) for (let j = 0; j < n; j += 1) normal.push(dot(columns[i] ?? [], columns[j] ?? []));
  return { normal, gradient: columns.map((column) => dot(column, r)) };
}

/**
 * Solves the square system `matrix x = right` by elimination with partial pivoting.
 * @param matrix row-major n x n
 * @returns null when the matrix is singular to double precision
 */
export function solveLinear(matrix: readonly number[], right: readonly number[]): number[] | null {
  const n = right.length;
  const a = Array.from({ length: n }, (_, i) => [...matrix.slice(i * n, i * n + n), right[i] ?? 0]);
  for (let c = 0; c < n; c += 1) {
    let best = c;
    for (let i = c + 1; i < n; i += 1) if (Math.abs(a[i]?.[c] ?? 0) > Math.abs(a[best]?.[c] ?? 0)) best = i;
    const pivotRow = a[best];
    const swapped = a[c];
    if (!pivotRow || !swapped || !(Math.abs(pivotRow[c] ?? 0) > 1e-300)) return null;
    a[best] = swapped;
    a[c] = pivotRow;
    for (let i = 0; i < n; i += 1) {
      const row = a[i];
      if (i === c || !row) continue;
      const factor = (row[c] ?? 0) / (pivotRow[c] ?? 1);
      for (let j = c; j <= n; j += 1) row[j] = (row[j] ?? 0) - factor * (pivotRow[j] ?? 0);
    }
  }
  return a.map((row, i) => (row[n] ?? 0) / (row[i] ?? 1));
}
