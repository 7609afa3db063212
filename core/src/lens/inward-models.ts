import { solveLinear } from '../linear/levenberg-marquardt';

/** A radial function picture -> ideal and its slope, radii in half diagonals; NaN where it folds. */
export type Inwards = (r: number) => readonly [value: number, slope: number];

/** A lens that shrinks a radius by more than this is not one. */
const LEAST_SLOPE = 0.02;

/** The smallest ideal radius at which r (1 + k1 r^2 + k2 r^4) stops growing; Infinity where it never does. */
function turningRadius(k1: number, k2: number): number {
  const roots =
    Math.abs(k2) < 1e-15 ? [-1 / (3 * k1)] : [-1, 1].map((sign) => (-3 * k1 + sign * Math.sqrt(9 * k1 * k1 - 20 * k2)) / (10 * k2));
  return Math.sqrt(Math.min(...roots.filter((s) => s > 0)));
}

export const FAMILIES = {
  radial: ([k1 = 0, k2 = 0]: readonly number[]): Inwards => {
    const slope = (s: number): number => 1 + s * (3 * k1 + 5 * k2 * s);
    const turn = turningRadius(k1, k2);
    return (r) => {
      // safeguarded Newton steps between nothing and the radius where the polynomial turns back
      let [low, high] = [0, turn];
      let u = Math.min(r, turn);
      for (let i = 0; i < 60; i += 1) {
        const error = u * (1 + u * u * (k1 + k2 * u * u)) - r;
        if (Math.abs(error) < 1e-13) break;
        if (error > 0) high = u;
        else low = u;
        const next = u - error / slope(u * u);
        u = next > low && next < high ? next : Number.isFinite(high) ? (low + high) / 2 : 2 * u;
      }
      const s = slope(u * u);
      return s > LEAST_SLOPE && u < turn ? [u, 1 / s] : [NaN, NaN];
    };
  },
  division:
    ([l1 = 0, l2 = 0]: readonly number[]): Inwards =>
    (r) => {
      const s = r * r;
      const d = 1 + s * (l1 + l2 * s);
      const growth = 1 - l1 * s - 3 * l2 * s * s;
      return d > LEAST_SLOPE && growth > LEAST_SLOPE ? [r / d, growth / (d * d)] : [NaN, NaN];
    },
} as const;
export type Family = keyof typeof FAMILIES;

/** Coefficients of the radial model nearest to another function up to a radius, by least squares of r / u - 1 over the ideal radius u. */
export function nearestRadial(inwards: Inwards, reached: number, count: number): number[] {
  const samples = Array.from({ length: 30 }, (_, i) => ((i + 1) / 30) * reached).map((r) => ({ r, u: inwards(r)[0] }));
  const power = (u: number, k: number): number => u ** (2 * k + 2);
  const sum = (of: (s: { r: number; u: number }) => number): number => samples.reduce((total, s) => total + of(s), 0);
  const index = Array.from({ length: count }, (_, k) => k);
  const normal = index.flatMap((i) => index.map((j) => sum(({ u }) => power(u, i) * power(u, j))));
  return (
    solveLinear(
      normal,
      index.map((i) => sum(({ r, u }) => power(u, i) * (r / u - 1))),
    ) ?? index.map(() => 0)
  );
}
