import type { Point, Rect } from './point';

/** Smallest axis-parallel rectangle around `points`; one point or more. */
export function boundsOf(points: readonly Point[]): Rect {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of points) {
    left = Math.min(left, x);
    right = Math.max(right, x);
    top = Math.min(top, y);
    bottom = Math.max(bottom, y);
  }
  return { x: left, y: top, width: right - left, height: bottom - top };
}

/** Area of a closed polygon, always positive (shoelace). */
export function polygonArea(points: readonly Point[]): number {
  let sum = 0;
  points.forEach(([x, y], i) => {
    const [nx, ny] = points[(i + 1) % points.length] as Point;
    sum += x * ny - nx * y;
  });
  return Math.abs(sum) / 2;
}

/** Whether a point lies inside a closed polygon (even-odd rule). */
export function isInside(points: readonly Point[], [x, y]: Point): boolean {
  let inside = false;
  for (let i = 0, j = points.length - 1; i < points.length; j = i, i += 1) {
    const [xi, yi] = points[i] as Point;
    const [xj, yj] = points[j] as Point;
    if (yi > y !== yj > y && x < xi + ((y - yi) / (yj - yi)) * (xj - xi)) inside = !inside;
  }
  return inside;
}

/** The part of a closed polygon where `signed` is not negative (Sutherland, Hodgman 1974); `signed` must be affine along edges. */
export function clipPolygon(points: readonly Point[], signed: (p: Point) => number): Point[] {
  const kept: Point[] = [];
  points.forEach((p, i) => {
    const q = points[(i + 1) % points.length] as Point;
    const [dp, dq] = [signed(p), signed(q)];
    if (dp >= 0) kept.push(p);
    if (dp >= 0 !== dq >= 0) {
      const t = dp / (dp - dq);
      kept.push([p[0] + t * (q[0] - p[0]), p[1] + t * (q[1] - p[1])]);
    }
  });
  return kept;
}

/** The part of a closed polygon inside a rectangle; where it is not convex, some of its edges may run there and back along the sides. */
export function clipToRect(points: readonly Point[], { x, y, width, height }: Rect): Point[] {
  const sides: readonly ((p: Point) => number)[] = [(p) => p[0] - x, (p) => x + width - p[0], (p) => p[1] - y, (p) => y + height - p[1]];
  return sides.reduce<Point[]>((kept, signed) => clipPolygon(kept, signed), [...points]);
}

/** Whether a closed polygon never turns back, whichever way it runs round. */
export function isConvex(outline: readonly Point[]): boolean {
  let way = 0;
  for (let i = 0; i < outline.length; i += 1) {
    const [a, b, c] = [0, 1, 2].map((k) => outline[(i + k) % outline.length] as Point) as [Point, Point, Point];
    const [ux, uy, vx, vy] = [b[0] - a[0], b[1] - a[1], c[0] - b[0], c[1] - b[1]];
    const turn = ux * vy - uy * vx;
    if (Math.abs(turn) <= 1e-9 * (Math.hypot(ux, uy) * Math.hypot(vx, vy))) continue;
    if (way !== 0 && Math.sign(turn) !== way) return false;
    way = Math.sign(turn);
  }
  return way !== 0;
}

/**
 * A closed polygon with fewer points, some of its own: no side of it lies farther than `withinPx` from what it stands for
 * (Douglas, Peucker 1973).
 */
export function thinned(points: readonly Point[], withinPx: number): readonly Point[] {
  const kept: Point[] = [];
  const visit = (from: number, to: number): void => {
    const a = points[from] as Point;
    const [x, y] = points[to % points.length] as Point;
    const [dx, dy] = [x - a[0], y - a[1]];
    const length = Math.hypot(dx, dy);
    let [farthest, off] = [0, withinPx];
    for (let i = from + 1; i < to; i += 1) {
      const p = points[i] as Point;
      const [u, v] = [p[0] - a[0], p[1] - a[1]];
      const along = length > 0 ? (u * dx + v * dy) / length : 0;
      // beyond an end it is the end that is near
      const here =
        along > 0 && along < length ? Math.abs(u * dy - v * dx) / length : Math.min(Math.hypot(u, v), Math.hypot(p[0] - x, p[1] - y));
      if (here > off) [farthest, off] = [i, here];
    }
    if (farthest === 0) {
      kept.push(a);
      return;
    }
    visit(from, farthest);
    visit(farthest, to);
  };
  // two halves, so that no part begins where it ends
  const half = points.length >> 1;
  visit(0, half);
  visit(half, points.length);
  return kept;
}
