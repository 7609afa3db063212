import type { Point } from '../picture/point';

/** A straight line by a point of it and its direction, radians clockwise as seen from the x axis. */
export interface Line {
  readonly at: Point;
  readonly rad: number;
}

export const lineThrough = (a: Point, b: Point): Line => ({
  at: [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2],
  rad: Math.atan2(b[1] - a[1], b[0] - a[0]),
});

/** Where two lines meet; null where they are as good as parallel. */
export function meetingOf(p: Line, q: Line): Point | null {
  const [c, s] = [Math.cos(p.rad), Math.sin(p.rad)];
  const [d, t] = [Math.cos(q.rad), Math.sin(q.rad)];
  const denominator = c * t - s * d;
  if (Math.abs(denominator) < 1e-6) return null;
  const k = ((q.at[0] - p.at[0]) * t - (q.at[1] - p.at[1]) * d) / denominator;
  return [p.at[0] + k * c, p.at[1] + k * s];
}
