import { solveLinear } from '../linear/levenberg-marquardt';
import type { Point } from '../picture/point';
import type { Brightness } from './brightness';

/** Weaker edges are noise: mean step of brightness, 0..1. */
export const LEAST_CONTRAST = 0.012;

/** A drawn line as axes: from `a`, along it and square to it. */
export interface Frame {
  readonly a: Point;
  readonly along: Point;
  readonly normal: Point;
  readonly length: number;
}

export function frameOf(a: Point, b: Point): Frame {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const along: Point = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  return { a, along, normal: [-along[1], along[0]], length };
}

/** Samples across an edge lie this far apart, px. */
const STEP = 0.25;

/**
 * Where brightness steps across a point of a line.
 *
 * @param normal direction across, unit length
 * @param sign which way brightness has to step, 1 or -1
 * @param window how far to look to either side, px
 * @returns the offset of the step's middle along the normal, px, and how much brightness steps; null where it steps the other way
 */
export function stepAcross(
  brightness: Brightness,
  x: number,
  y: number,
  normal: Point,
  sign: number,
  window: number,
): { readonly o: number; readonly w: number } | null {
  const half = Math.round(window / STEP);
  const at = (k: number): number => brightness(x + normal[0] * (k * STEP), y + normal[1] * (k * STEP));
  // half a pixel to either side of each sample: two samples on, two samples back
  let [p, q, r, s] = [at(-half - 2), at(-half - 1), at(-half), at(-half + 1)];
  let [sum, moment, total] = [0, 0, 0];
  for (let k = -half; k <= half; k += 1) {
    const t = at(k + 2);
    const g = sign * (t - p);
    p = q;
    q = r;
    r = s;
    s = t;
    if (g <= 0) continue;
    sum += g * g;
    moment += g * g * k * STEP;
    total += g * STEP;
  }
  return sum > 0 ? { o: moment / sum, w: total } : null;
}

/** Coefficients of the weighted least-squares polynomial o(t). */
export function weightedPolynomial(points: readonly { t: number; o: number; w: number }[], degree: number): number[] | null {
  const n = degree + 1;
  const moments = new Array<number>(2 * n - 1).fill(0);
  const right = new Array<number>(n).fill(0);
  for (const { t, o, w } of points) {
    let power = w;
    for (let i = 0; i < moments.length; i += 1) {
      moments[i] = (moments[i] as number) + power;
      if (i < n) right[i] = (right[i] as number) + power * o;
      power *= t;
    }
  }
  return solveLinear(
    Array.from({ length: n * n }, (_, k) => moments[Math.floor(k / n) + (k % n)] as number),
    right,
  );
}
