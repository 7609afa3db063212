import type { Point } from '../picture/point';
import type { EaseMap } from './relief';

/** Where rays of the aim meet the plane: ray [x, y, 1] -> axis + linear [x, y]; `linear` as [xx, xy, yx, yy], px. */
export interface RayPlane {
  readonly axis: Point;
  readonly linear: readonly [number, number, number, number];
}

/**
 * Projection easing: x = S sin(phi), y = S tan(theta) with S = (d + 1) / (d + cos phi), for a ray phi to the side of the aim and theta
 * above it. At d = 0 the plane is as it was; at 1 things far to the side are about as wide for their height as seen from their own
 * direction. The aim's verticals stay straight and vertical, lines through its axis stay straight, others bend.
 * Sharpless, Postle, German 2010, Pannini: a new projection (from memory; held against a plain inversion in the tests).
 *
 * @param d 0..1
 * @param place where the aim's rays meet the plane, px
 * @param along plumb eases what lies above and below instead of at both sides
 * @returns the flat plane -> the eased plane; the way back is false where the ray would lie beside or behind the viewer
 */
export function projectionEasing(
  d: number,
  { axis: [ax, ay], linear: [xx, xy, yx, yy] }: RayPlane,
  along: 'level' | 'plumb' = 'level',
): EaseMap {
  const det = xx * yy - xy * yx;
  // the coordinate of a ray along which it is eased
  const [u0, u1] = along === 'level' ? [yy / det, -xy / det] : [-yx / det, xx / det];
  return {
    forward(x, y, out) {
      const [px, py] = [x - ax, y - ay];
      const u = u0 * px + u1 * py;
      const cos = 1 / Math.sqrt(1 + u * u);
      const k = ((d + 1) * cos) / (d + cos);
      out[0] = ax + k * px;
      out[1] = ay + k * py;
      return true;
    },
    back(x, y, out) {
      const [px, py] = [x - ax, y - ay];
      const q = ((u0 * px + u1 * py) / (d + 1)) ** 2;
      const root = q * q * d * d - (q + 1) * (q * d * d - 1);
      const cos = (Math.sqrt(Math.max(0, root)) - q * d) / (q + 1);
      if (!(root >= 0 && cos > 1e-6)) return false;
      const k = (d + cos) / ((d + 1) * cos);
      out[0] = ax + k * px;
      out[1] = ay + k * py;
      return true;
    },
  };
}
