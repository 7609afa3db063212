/** A position [x, y]; its space is named where it is used (picture, turned, ideal, plane, output). x right, y down, px. */
export type Point = readonly [number, number];

/** Width and height, px. */
export interface Size {
  readonly width: number;
  readonly height: number;
}

/** Axis-parallel rectangle by its top left corner; plane px unless said otherwise. */
export interface Rect {
  readonly x: number;
  readonly y: number;
  readonly width: number;
  readonly height: number;
}

export const distance = (a: Point, b: Point): number => Math.hypot(a[0] - b[0], a[1] - b[1]);
export const midpoint = (a: Point, b: Point): Point => [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
export const diagonal = (size: Size): number => Math.hypot(size.width, size.height);
export const rectCentre = (rect: Rect): Point => [rect.x + rect.width / 2, rect.y + rect.height / 2];
export const rectAround = (centre: Point, width: number, height: number): Rect => ({
  x: centre[0] - width / 2,
  y: centre[1] - height / 2,
  width,
  height,
});
export const rectCorners = (r: Rect): readonly [Point, Point, Point, Point] => [
  [r.x, r.y],
  [r.x + r.width, r.y],
  [r.x + r.width, r.y + r.height],
  [r.x, r.y + r.height],
];
export const degrees = (rad: number): number => (rad * 180) / Math.PI;
export const radians = (deg: number): number => (deg * Math.PI) / 180;

/** Distance from a point to a segment, in the points' own unit. */
export function distanceToSegment(p: Point, a: Point, b: Point): number {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const lengthSq = dx * dx + dy * dy;
  const t = lengthSq === 0 ? 0 : Math.max(0, Math.min(1, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / lengthSq));
  return distance(p, [a[0] + t * dx, a[1] + t * dy]);
}
