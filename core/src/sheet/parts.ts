import type { Point } from '../picture/point';
import { clipPolygon, polygonArea } from '../picture/polygon';

/** Pixels of a level that are not lid: 1 where so. */
export interface Mask {
  readonly width: number;
  readonly height: number;
  readonly on: Uint8Array;
}

/** A connected part of a mask. */
export interface Part {
  /** Its convex hull, clockwise as seen, px of the level. */
  readonly hull: readonly Point[];
  /** How many pixels it has, and the number under which these stand in the map of parts. */
  readonly pixels: number;
  readonly number: number;
}

/** Every gap of at most twice `radius` px closed. */
export function closed({ width, height, on }: Mask, radius: number): Mask {
  const grown = spread(spread(on, width, height, radius, 1, true), width, height, radius, 1, false);
  return { width, height, on: spread(spread(grown, width, height, radius, 0, true), width, height, radius, 0, false) };
}

/** Everything thinner than about twice `radius` px gone: threads, dust. */
export function opened({ width, height, on }: Mask, radius: number): Mask {
  const thinned = spread(spread(on, width, height, radius, 0, true), width, height, radius, 0, false);
  return { width, height, on: spread(spread(thinned, width, height, radius, 1, true), width, height, radius, 1, false) };
}

/** Everything within `radius` of a pixel of `value` along rows or columns becomes that value. */
function spread(on: Uint8Array, width: number, height: number, radius: number, value: 0 | 1, rows: boolean): Uint8Array {
  const out = Uint8Array.from(on);
  const [lines, length, step, stride] = rows ? [height, width, 1, width] : [width, height, width, 1];
  for (let line = 0; line < lines; line += 1) {
    const base = line * stride;
    let last = -Infinity;
    for (let i = 0; i < length; i += 1) {
      if (on[base + i * step] === value) last = i;
      if (i - last <= radius) out[base + i * step] = value;
    }
    last = Infinity;
    for (let i = length - 1; i >= 0; i -= 1) {
      if (on[base + i * step] === value) last = i;
      if (last - i <= radius) out[base + i * step] = value;
    }
  }
  return out;
}

/** The connected parts of a mask (eight neighbours), of `fewest` pixels or more, and which pixel belongs to which; 0 for none. */
export function partsOf({ width, height, on }: Mask, fewest: number): { readonly parts: Part[]; readonly map: Int32Array } {
  const map = new Int32Array(width * height);
  const parts: Part[] = [];
  const stack: number[] = [];
  let number = 0;
  for (let start = 0; start < map.length; start += 1) {
    if (on[start] === 0 || map[start] !== 0) continue;
    number += 1;
    map[start] = number;
    stack.push(start);
    let pixels = 0;
    // the outermost pixel of each row, left and right, is all that a hull needs
    const left = new Map<number, number>();
    const right = new Map<number, number>();
    for (let k = stack.pop(); k !== undefined; k = stack.pop()) {
      pixels += 1;
      const [x, y] = [k % width, Math.floor(k / width)];
      if (x < (left.get(y) ?? Infinity)) left.set(y, x);
      if (x > (right.get(y) ?? -1)) right.set(y, x);
      for (let j = y > 0 ? y - 1 : 0; j <= y + 1 && j < height; j += 1)
        for (let i = x > 0 ? x - 1 : 0; i <= x + 1 && i < width; i += 1) {
          const n = j * width + i;
          if (on[n] === 0 || map[n] !== 0) continue;
          map[n] = number;
          stack.push(n);
        }
    }
    if (pixels < fewest) continue;
    const ends: Point[] = [];
    for (const [y, x] of left) ends.push([x, y], [x, y + 1]);
    for (const [y, x] of right) ends.push([x + 1, y], [x + 1, y + 1]);
    parts.push({ hull: convexHull(ends), pixels, number });
  }
  return { parts, map };
}

/** Convex hull, clockwise as seen (y down). Source: Andrew 1979, monotone chain. */
export function convexHull(points: readonly Point[]): Point[] {
  const sorted = [...points].sort((p, q) => p[0] - q[0] || p[1] - q[1]);
  const half = (of: readonly Point[]): Point[] => {
    const chain: Point[] = [];
    for (const p of of) {
      while (chain.length > 1 && turn(chain.at(-2) as Point, chain.at(-1) as Point, p) <= 0) chain.pop();
      chain.push(p);
    }
    return chain.slice(0, -1);
  };
  return [...half(sorted), ...half(sorted.reverse())];
}

const turn = (a: Point, b: Point, c: Point): number => (b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]);

/** Area that two convex hulls have in common. */
export function commonArea(a: readonly Point[], b: readonly Point[]): number {
  let rest: readonly Point[] = a;
  for (let i = 0; i < b.length && rest.length > 2; i += 1) {
    const [p, q] = [b[i] as Point, b[(i + 1) % b.length] as Point];
    rest = clipPolygon(rest, (r) => turn(p, q, r));
  }
  return rest.length > 2 ? polygonArea(rest) : 0;
}

export type Box = readonly [Point, Point, Point, Point];

/** Sides of a hull that lie within this of a direction, or square to it, speak for it, radians. */
const ALONG_RAD = 0.03;

/**
 * The rectangle around a convex hull along whose sides most of the hull runs: a torn corner or dust that lies against it does not turn it.
 * Clockwise as seen.
 */
export function boxOf(hull: readonly Point[]): Box {
  const sides = hull.map((p, i) => {
    const q = hull[(i + 1) % hull.length] as Point;
    return { rad: Math.atan2(q[1] - p[1], q[0] - p[0]), length: Math.hypot(q[0] - p[0], q[1] - p[1]) };
  });
  const right = Math.PI / 2;
  const off = (a: number, b: number): number => a - b - right * Math.round((a - b) / right);
  let best = { value: -1, rad: 0 };
  for (const { rad } of sides) {
    const near = sides.filter((side) => Math.abs(off(side.rad, rad)) <= ALONG_RAD);
    const value = near.reduce((sum, side) => sum + side.length, 0);
    if (value > best.value) best = { value, rad: rad + near.reduce((sum, side) => sum + side.length * off(side.rad, rad), 0) / value };
  }
  return boxAlong(hull, [Math.cos(best.rad), Math.sin(best.rad)]);
}

/** The rectangle around points with sides along a direction of unit length, clockwise as seen. */
export function boxAlong(points: readonly Point[], [c, s]: Point): Box {
  let [u0, u1, v0, v1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (const [x, y] of points) {
    const [u, v] = [x * c + y * s, y * c - x * s];
    u0 = Math.min(u0, u);
    u1 = Math.max(u1, u);
    v0 = Math.min(v0, v);
    v1 = Math.max(v1, v);
  }
  const at = (u: number, v: number): Point => [u * c - v * s, u * s + v * c];
  return [at(u0, v0), at(u1, v0), at(u1, v1), at(u0, v1)];
}

export const boxArea = (box: Box): number => sideOf(box, 0) * sideOf(box, 1);
export const sideOf = (box: Box, i: number): number => {
  const [p, q] = [box[i] as Point, box[(i + 1) % 4] as Point];
  return Math.hypot(q[0] - p[0], q[1] - p[1]);
};
