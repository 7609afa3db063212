import { cross3, type Vec3 } from '../linear/mat3';
import { midpoint, type Point } from '../picture/point';
import { DegeneratePanelError, sortCorners } from './homography-from-corners';
import { quadOf, type Quad } from '../picture/quad';

type Edge = readonly [Point, Point];

/**
 * Corners of a rectangle from a line along each of its sides, in any order: sides that follow each other round the middle cross in a
 * corner, which may be rounded, hidden or outside the picture.
 *
 * @param edges four lines, two points anywhere along each, px of a space in which straight things are straight
 * @returns top left, top right, bottom right, bottom left
 * @throws DegeneratePanelError when two neighbouring sides are parallel or the corners are no rectangle
 */
export function cornersOfEdges(edges: readonly Edge[]): Quad {
  const middles = edges.map(([a, b]) => midpoint(a, b));
  const [cx, cy] = [0, 1].map((k) => middles.reduce((sum, p) => sum + (p[k] as number), 0) / middles.length) as [number, number];
  const round = edges
    .map((edge, i) => ({ edge, angle: Math.atan2((middles[i] as Point)[1] - cy, (middles[i] as Point)[0] - cx) }))
    .sort((p, q) => p.angle - q.angle)
    .map(({ edge }) => edge);
  const corners = round.map((edge, i) => {
    const crossing = crossingOf(edge, round[(i + 1) % round.length] as Edge);
    if (!crossing) throw new DegeneratePanelError(null);
    return crossing;
  });
  const four = quadOf(corners);
  if (!four) throw new DegeneratePanelError(null);
  return sortCorners(four);
}

/** Sines below this are parallel to the accuracy of pointing. */
const PARALLEL = 0.02;

/** Where two lines cross; null where they are parallel. */
export function crossingOf([a, b]: Edge, [c, d]: Edge): Point | null {
  const line = (p: Point, q: Point): Vec3 => [p[1] - q[1], q[0] - p[0], p[0] * q[1] - p[1] * q[0]];
  const [x, y, w] = cross3(line(a, b), line(c, d));
  const lengths = Math.hypot(b[0] - a[0], b[1] - a[1]) * Math.hypot(d[0] - c[0], d[1] - c[1]);
  return Math.abs(w) > PARALLEL * lengths ? [x / w, y / w] : null;
}
