import { degrees, type Point } from './point';

/**
 * Lean of a line off the vertical: degrees, -90 < lean <= 90, positive when its top lies to the left (anticlockwise as seen).
 * The order of the ends does not matter.
 */
export function leanDeg(a: Point, b: Point): number {
  const [top, bottom] = a[1] <= b[1] ? [a, b] : [b, a];
  const lean = degrees(Math.atan2(bottom[0] - top[0], bottom[1] - top[1]));
  return lean <= -90 ? 90 : lean;
}

/**
 * Slope of a line off the horizontal: degrees, -90 < slope <= 90, positive when it rises to the right (anticlockwise as seen).
 * The order of the ends does not matter.
 */
export function slopeDeg(a: Point, b: Point): number {
  const [left, right] = a[0] <= b[0] ? [a, b] : [b, a];
  const slope = degrees(Math.atan2(left[1] - right[1], right[0] - left[0]));
  return slope <= -90 ? 90 : slope;
}

/** The kind a line is taken for by its slope: steeper than 45 degrees is plumb (common practice, no published source). */
export const kindBySlope = (a: Point, b: Point): 'plumb' | 'level' => (Math.abs(b[1] - a[1]) > Math.abs(b[0] - a[0]) ? 'plumb' : 'level');

/** Lean of a direction, as {@link leanDeg} of a line along it. */
export const planeDirectionLean = ([dx, dy]: Point): number => leanDeg([0, 0], [dx, dy]);
