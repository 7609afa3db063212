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
