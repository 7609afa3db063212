import { eliminate } from './levenberg-marquardt';

/** Inverse of a symmetric matrix, row-major; null where it is singular. */
export function inverseOf(matrix: readonly number[], n: number): number[] | null {
  const inverse = eliminate(
    matrix,
    Array.from({ length: n * n }, (_, k) => (k % (n + 1) === 0 ? 1 : 0)),
    n,
    n,
  );
  return inverse?.every(Number.isFinite) ? inverse : null;
}

/** Columns of the lower root of a covariance, L L^T = C; null where it is none. */
export function lowerRoot(covariance: readonly number[] | null, n: number): number[][] | null {
  if (!covariance) return null;
  const l = Array.from({ length: n }, () => new Array<number>(n).fill(0));
  for (let i = 0; i < n; i += 1) {
    for (let j = 0; j <= i; j += 1) {
      let sum = covariance[i * n + j] as number;
      for (let k = 0; k < j; k += 1) sum -= ((l[i] as number[])[k] as number) * ((l[j] as number[])[k] as number);
      if (i === j) {
        if (!(sum > 0)) return null;
        (l[i] as number[])[i] = Math.sqrt(sum);
      } else (l[i] as number[])[j] = sum / ((l[j] as number[])[j] as number);
    }
  }
  return Array.from({ length: n }, (_, k) => l.map((row) => row[k] as number));
}
