/** Result of a least-squares fit. */
export interface Fit {
  readonly x: readonly number[];
  /** Half the sum of squares at `x`. */
  readonly cost: number;
  /** J^T J at `x`, row-major n x n. */
  readonly normal: readonly number[];
}

const MOST_ROUNDS = 40;

/**
 * Minimises half the sum of squares of `residuals(x)` by Levenberg-Marquardt with central differences.
 *
 * @param residuals maps n parameters to m residuals, m >= 1; must be finite near the start
 * @param start n values
 * @param step one difference step a parameter
 * @param settled it has settled when no parameter moves by more than so many of its steps
 * @returns the best point found; never throws on contradictory residuals
 * Source: Marquardt 1963; Madsen, Nielsen, Tingleff 2004, Methods for non-linear least squares problems, algorithm 3.16.
 */
export function levenbergMarquardt(
  residuals: (x: readonly number[]) => readonly number[],
  start: readonly number[],
  step: readonly number[],
  settled = 1e-7,
): Fit {
  const n = start.length;
  let x = [...start];
  let r = residuals(x);
  let cost = halfSquares(r);
  let lambda = 1e-3;
  let { normal, gradient } = normalEquations(residuals, x, r, step);
  for (let round = 0; round < MOST_ROUNDS; round += 1) {
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
      const small = Math.max(...delta.map((d, k) => Math.abs(d) / (step[k] ?? 1))) < settled || cost - trialCost <= 1e-16 * cost;
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

function halfSquares(r: readonly number[]): number {
  let sum = 0;
  for (const value of r) sum += value * value;
  return sum / 2;
}

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
  const normal = new Array<number>(n * n);
  columns.forEach((p, i) => {
    columns.forEach((q, j) => {
      normal[i * n + j] = j < i ? (normal[j * n + i] as number) : dot(p, q);
    });
  });
  return { normal, gradient: columns.map((column) => dot(column, r)) };
}

function dot(a: readonly number[], b: readonly number[]): number {
  let sum = 0;
  for (let i = 0; i < a.length; i += 1) sum += (a[i] as number) * (b[i] as number);
  return sum;
}

/**
 * Solves the square system `matrix x = right` by elimination with partial pivoting.
 * @param matrix row-major n x n
 * @returns null when the matrix is singular to double precision
 */
export function solveLinear(matrix: readonly number[], right: readonly number[]): number[] | null {
  const n = right.length;
  return eliminate(matrix, right, n, 1);
}

/**
 * Solves `matrix x = right` for several right sides at once, by elimination with partial pivoting.
 * @param matrix row-major n x n
 * @param right row-major n x sides
 * @returns row-major n x sides; null when the matrix is singular to double precision
 */
export function eliminate(matrix: readonly number[], right: readonly number[], n: number, sides: number): number[] | null {
  const m = n + sides;
  const a = new Float64Array(n * m);
  for (let i = 0; i < n; i += 1) {
    for (let j = 0; j < n; j += 1) a[i * m + j] = matrix[i * n + j] as number;
    for (let j = 0; j < sides; j += 1) a[i * m + n + j] = right[i * sides + j] as number;
  }
  for (let c = 0; c < n; c += 1) {
    let best = c;
    for (let i = c + 1; i < n; i += 1) if (Math.abs(a[i * m + c] as number) > Math.abs(a[best * m + c] as number)) best = i;
    const pivot = a[best * m + c] as number;
    if (!(Math.abs(pivot) > 1e-300)) return null;
    if (best !== c)
      for (let j = c; j < m; j += 1) {
        const kept = a[c * m + j] as number;
        a[c * m + j] = a[best * m + j] as number;
        a[best * m + j] = kept;
      }
    for (let i = 0; i < n; i += 1) {
      const factor = i === c ? 0 : (a[i * m + c] as number) / pivot;
      if (factor !== 0) for (let j = c; j < m; j += 1) a[i * m + j] = (a[i * m + j] as number) - factor * (a[c * m + j] as number);
    }
  }
  return Array.from({ length: n * sides }, (_, k) => {
    const i = Math.floor(k / sides);
    return (a[i * m + n + (k % sides)] as number) / (a[i * m + i] as number);
  });
}
