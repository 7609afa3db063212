import { PlumbError } from '../picture/failure';
import type { Point, Size } from '../picture/point';

/**
 * A lens as a pair of maps between picture space and ideal space (before quarter turns), px; inverse to each other to 1e-6 px
 * within the picture. `out` receives x and y; the return value is false where there is no image.
 */
export interface LensMap {
  /**
   * Ideal -> picture. Beyond 1.02 times the ideal radius of the farthest corner, where polynomials fold back, it goes straight on, away from the picture: whoever draws
   * meets no places without an image there.
   */
  distort(x: number, y: number, out: Float64Array): boolean;
  /** Picture -> ideal. */
  undistort(x: number, y: number, out: Float64Array): boolean;
  /** Picture radius about `centre` beyond which there is no ideal point; Infinity for all but fisheyes. */
  readonly limitRadiusPx: number;
  readonly centre: Point;
  /** True when straight lines stay straight, so that sides need no subdivision. */
  readonly straight: boolean;
}

/** Parameters whose map folds inside the picture cannot belong to this picture. */
export class LensFoldsError extends PlumbError {
  constructor(detail: string) {
    super(
      'lens-folds',
      `These lens values bend the picture back over itself (${detail}).`,
      'The picture is unchanged; check the coefficients.',
    );
    this.name = 'LensFoldsError';
  }
}

/** Distance from `centre` to the farthest corner of the picture, px. */
export const farthestCornerPx = ([cx, cy]: Point, size: Size): number =>
  Math.hypot(Math.max(cx, size.width - cx), Math.max(cy, size.height - cy));

const STEPS = 256;

/**
 * Inverts a growing function of one variable on [0, limit] by safeguarded Newton steps to about 1e-13 of `limit`.
 * @returns null when `value` lies above `f(limit)`
 */
export function invertGrowing(f: (r: number) => number, value: number, limit: number): number | null {
  if (value <= 0) return 0;
  const top = f(limit);
  if (!(value <= top)) return null;
  let [low, high] = [0, limit];
  let r = Math.min(value, limit);
  for (let i = 0; i < 60; i += 1) {
    const error = f(r) - value;
    if (error > 0) high = r;
    else low = r;
    const h = 1e-6 * limit;
    const slope = (f(r + h) - f(r - h)) / (2 * h);
    let next = r - error / slope;
    if (!(next > low && next < high)) next = (low + high) / 2;
    if (Math.abs(next - r) < 1e-13 * limit) return next;
    r = next;
  }
  return r;
}

/** Slope of a radial function at a radius, from below. */
export function slopeAt(f: (r: number) => number, r: number): number {
  const h = 1e-6 * r;
  return (f(r) - f(r - h)) / h;
}

/** Refuses a radial function that does not grow all the way to `limit`. */
export function requireGrowing(f: (r: number) => number, limit: number, detail: string): void {
  let last = f(0);
  for (let i = 1; i <= STEPS; i += 1) {
    const value = f((limit * i) / STEPS);
    if (!(value > last)) throw new LensFoldsError(detail);
    last = value;
  }
}

/** First radius at which a growing function reaches `value`, searched in growing steps; null when it turns back before. */
export function reachGrowing(f: (r: number) => number, value: number, start: number): number | null {
  let limit = start;
  for (let i = 0; i < 200; i += 1) {
    if (f(limit) >= value) return invertGrowing(f, value, limit);
    if (f(limit * 1.02) <= f(limit)) return null;
    limit *= 1.02;
  }
  return null;
}

/** About where a function that grows on [0, limit] takes a value: within the square of a 256th of the limit where it bends gently. A start for what solves exactly. */
export function roughInverse(f: (r: number) => number, limit: number): (value: number) => number {
  const values = Float64Array.from({ length: STEPS + 1 }, (_, i) => f((limit * i) / STEPS));
  return (value) => {
    let [low, high] = [0, STEPS];
    while (high - low > 1) {
      const middle = (low + high) >> 1;
      if ((values[middle] as number) <= value) low = middle;
      else high = middle;
    }
    const [from, to] = [values[low] as number, values[high] as number];
    return (limit / STEPS) * (low + Math.min(1, Math.max(0, (value - from) / (to - from))));
  };
}
