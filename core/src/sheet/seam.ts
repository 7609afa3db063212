import type { Point } from '../picture/point';
import { medianOf, type Planes } from './lid';
import { boxOf, sideOf } from './parts';

/** Where prints that lie side by side, nearly touching, are to be parted: a point and a direction, radians; px of the level. */
export interface Seam {
  readonly at: Point;
  readonly way: number;
}

/** Sides of a rectangle lie this near to it, px. */
const NEAR_PX = 45;
/** Sides of one print are straight to this, px: root mean square. */
const STRAIGHT_PX = 0.6;
/** Two straight pieces have to fit both long sides so much better than one: what is left of the squares, of each side and of both. */
const LEFT_EACH = 0.4;
const LEFT_BOTH = 0.2;
/** Each print is at least this share of both. */
const LEAST_SHARE = 0.15;
/** Between prints there is a line, for so far inwards from both sides, px, by so much of full brightness. */
const INWARDS_PX = 9;
const LEAST_LINE = 0.018;
const BESIDE_PX = 5;

/**
 * The seam between two prints side by side that fill one rectangle: both of its long sides have a step or a bend there, and a line of lid or
 * shadow runs in from each. A curled print has the bends without the line.
 */
export function seamOf(pixels: readonly Point[], hull: readonly Point[], planes: Planes): Seam | null {
  const box = boxOf(hull);
  for (const first of sideOf(box, 0) >= sideOf(box, 1) ? [0, 1] : [1, 0]) {
    const [p, q] = [box[first] as Point, box[(first + 1) % 4] as Point];
    const length = Math.hypot(q[0] - p[0], q[1] - p[1]);
    const [c, s] = [(q[0] - p[0]) / length, (q[1] - p[1]) / length];
    const count = Math.floor(length);
    const [low, high] = [new Float64Array(count).fill(Infinity), new Float64Array(count).fill(-Infinity)];
    for (const [x, y] of pixels) {
      const [dx, dy] = [x + 0.5 - p[0], y + 0.5 - p[1]];
      const u = Math.floor(dx * c + dy * s);
      const v = dy * c - dx * s;
      if (u < 0 || u >= count) continue;
      if (v < (low[u] as number)) low[u] = v;
      if (v > (high[u] as number)) high[u] = v;
    }
    const deep = Math.hypot((box[(first + 2) % 4] as Point)[0] - q[0], (box[(first + 2) % 4] as Point)[1] - q[1]);
    // a gap that is open, a notch, a torn corner: no side there
    const at = bend(
      low.map((v) => (v <= NEAR_PX ? v : Infinity)),
      high.map((v) => (v >= deep - NEAR_PX ? v : Infinity)),
    );
    if (at === null) continue;
    const on = (u: number, v: number): Point => [p[0] + c * u - s * v, p[1] + s * u + c * v];
    // the line may lean a little, and the bend is known to a few px
    for (let tilt = -8; tilt <= 8; tilt += 1)
      for (let off = -6; off <= 6; off += 1) {
        const [top, bottom] = [
          on(at + off + tilt / 2, Math.min(NEAR_PX, low[at] as number)),
          on(at + off - tilt / 2, Math.max(deep - NEAR_PX, high[at] as number)),
        ];
        if (hasLine(planes, top, bottom)) return { at: top, way: Math.atan2(bottom[1] - top[1], bottom[0] - top[0]) };
      }
  }
  return null;
}

/** Where both courses have a step or a bend; null where each is as straight as one print's side. */
function bend(low: Float64Array, high: Float64Array): number | null {
  const n = low.length;
  const margin = Math.ceil(LEAST_SHARE * n);
  if (n < 40) return null;
  const sides = [low, high].map((course) => sums(course));
  const whole = sides.map((of) => squares(of, 0, n));
  if (whole.some((rest) => Math.sqrt(rest / n) < STRAIGHT_PX)) return null;
  let best: { readonly at: number; readonly left: number } | null = null;
  for (let at = margin; at < n - margin; at += 1) {
    const parted = sides.map((of) => squares(of, 0, at) + squares(of, at, n));
    if (parted.some((rest, i) => rest > LEFT_EACH * (whole[i] as number))) continue;
    const left = ((parted[0] as number) + (parted[1] as number)) / ((whole[0] as number) + (whole[1] as number));
    if (!best || left < best.left) best = { at, left };
  }
  return best && best.left <= LEFT_BOTH ? best.at : null;
}

type Sums = readonly [n: Float64Array, u: Float64Array, v: Float64Array, uu: Float64Array, uv: Float64Array, vv: Float64Array];

/** Running sums of a course, corners left out, so that any stretch of it is fitted at once. */
function sums(course: Float64Array): Sums {
  const all = Array.from({ length: 6 }, () => new Float64Array(course.length + 1)) as unknown as Sums;
  const edge = Math.ceil(0.02 * course.length);
  course.forEach((v, u) => {
    const counts = u >= edge && u < course.length - edge && Number.isFinite(v);
    [1, u, v, u * u, u * v, v * v].forEach((term, i) => {
      const of = all[i] as Float64Array;
      of[u + 1] = (of[u] as number) + (counts ? term : 0);
    });
  });
  return all;
}

/** Sum of squares off the best line through a stretch. */
function squares(all: Sums, from: number, to: number): number {
  const [n, u, v, uu, uv, vv] = all.map((of) => (of[to] as number) - (of[from] as number)) as [
    number,
    number,
    number,
    number,
    number,
    number,
  ];
  const determinant = n * uu - u * u;
  if (n < 8 || determinant <= 0) return 0;
  const slope = (n * uv - u * v) / determinant;
  const offset = (v - slope * u) / n;
  return Math.max(0, vv + slope * slope * uu + n * offset * offset + 2 * slope * offset * u - 2 * slope * uv - 2 * offset * v);
}

/** Whether a line darker or brighter than what is beside it runs in from both ends. */
function hasLine({ width, height, planes }: Planes, a: Point, b: Point): boolean {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  const [c, s] = [(b[0] - a[0]) / length, (b[1] - a[1]) / length];
  const from = (at: Point, way: number): boolean => {
    const steps = [];
    for (let t = 2; t <= INWARDS_PX; t += 1) {
      const value = (off: number): readonly number[] => {
        const x = Math.min(width - 1, Math.max(0, Math.floor(at[0] + way * c * t - s * off)));
        const y = Math.min(height - 1, Math.max(0, Math.floor(at[1] + way * s * t + c * off)));
        return planes.map((plane) => plane[y * width + x] as number);
      };
      const [here, left, right] = [value(0), value(-BESIDE_PX), value(BESIDE_PX)];
      steps.push(Math.max(...here.map((v, i) => Math.min(Math.abs(v - (left[i] as number)), Math.abs(v - (right[i] as number))))));
    }
    return medianOf(steps) >= LEAST_LINE;
  };
  return from(a, 1) && from(b, -1);
}
