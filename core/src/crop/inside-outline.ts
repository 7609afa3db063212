import { rectCentre, type Point, type Rect } from '../picture/point';
import { isInside } from '../picture/polygon';

/** Kept between the rectangle and the outline: arithmetic noise, far below anything visible. */
export const CLEARANCE_PX = 1e-7;

/** Whether no segment of the outline enters the open rectangle, and the rectangle's centre lies inside. */
export function isClear(outline: readonly Point[], rect: Rect, slackPx = 1e-3): boolean {
  return (
    isInside(outline, rectCentre(rect)) &&
    outline.every((a, i) => {
      const b = outline[(i + 1) % outline.length] as Point;
      return boxGap(a, b, rect) >= -slackPx || Math.max(...separations([a, b], rect)) >= -slackPx;
    })
  );
}

/**
 * Half the width of the largest rectangle of proportions `ratio` about a fixed centre, by the scaled Chebyshev distance to the outline.
 * @returns 0 when the centre lies outside
 */
export function halfWidthAbout(outline: readonly Point[], centre: Point, ratio: number): number {
  return isInside(outline, centre) ? halfToOutline(outline, centre, ratio) : 0;
}

/** {@link halfWidthAbout} for a centre that is known to lie inside. */
export function halfToOutline(outline: readonly Point[], centre: Point, ratio: number): number {
  let half = Infinity;
  let [ax, ay] = scaledFrom(outline.at(-1) as Point, centre, ratio);
  for (const point of outline) {
    const bx = point[0] - centre[0];
    const by = (point[1] - centre[1]) * ratio;
    // most segments lie farther away than one that was seen already: their box says so
    const x = ax > 0 ? Math.min(ax, bx) : -Math.max(ax, bx);
    const y = ay > 0 ? Math.min(ay, by) : -Math.max(ay, by);
    if (x < half && y < half) half = Math.min(half, chebyshevToSegment(ax, ay, bx, by));
    ax = bx;
    ay = by;
  }
  return Math.max(0, half - CLEARANCE_PX);
}

const scaledFrom = (p: Point, centre: Point, ratio: number): [number, number] => [p[0] - centre[0], (p[1] - centre[1]) * ratio];

/** Smallest max(|x|, |y|) on a segment: at an end, on an axis, or on a diagonal. */
function chebyshevToSegment(px: number, py: number, qx: number, qy: number): number {
  const [dx, dy] = [qx - px, qy - py];
  const at = (numerator: number, denominator: number): number => {
    const t = denominator === 0 ? 0 : Math.min(1, Math.max(0, numerator / denominator));
    return Math.max(Math.abs(px + t * dx), Math.abs(py + t * dy));
  };
  return Math.min(at(0, 1), at(1, 1), at(-px, dx), at(-py, dy), at(py - px, dx - dy), at(-py - px, dx + dy));
}

export type Segment = readonly [Point, Point];

export const segmentsOf = (outline: readonly Point[]): Segment[] => outline.map((p, i) => [p, outline[(i + 1) % outline.length] as Point]);

/** Widest signed gap between the box of a segment and a rectangle: a quick part of {@link separations}. */
export function boxGap(a: Point, b: Point, r: Rect): number {
  return Math.max(
    r.x - Math.max(a[0], b[0]),
    Math.min(a[0], b[0]) - r.x - r.width,
    r.y - Math.max(a[1], b[1]),
    Math.min(a[1], b[1]) - r.y - r.height,
  );
}

/** Signed gaps between a segment and a rectangle: left, right, above, below, along the segment's normal (towards its outside). */
export function separations([a, b]: Segment, r: Rect): [number, number, number, number, number] {
  const right = r.x + r.width;
  const bottom = r.y + r.height;
  const [nx, ny, c] = normalAway([a, b], rectCentre(r));
  const reach = nx * (nx > 0 ? right : r.x) + ny * (ny > 0 ? bottom : r.y);
  return [r.x - Math.max(a[0], b[0]), Math.min(a[0], b[0]) - right, r.y - Math.max(a[1], b[1]), Math.min(a[1], b[1]) - bottom, c - reach];
}

/** Unit normal of a segment's line pointing away from `from`, and the line's offset along it. */
export function normalAway([a, b]: Segment, from: Point): readonly [number, number, number] {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (length < 1e-12) return [1, 0, -Infinity];
  let [nx, ny] = [(b[1] - a[1]) / length, (a[0] - b[0]) / length];
  let c = nx * a[0] + ny * a[1];
  if (nx * from[0] + ny * from[1] > c) [nx, ny, c] = [-nx, -ny, -c];
  return [nx, ny, c];
}
