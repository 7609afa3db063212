import type { Correction } from '../correction/schema';
import type { Point, Rect } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { isCounted } from '../stance/true-lines';
import { toPlane, type PlaneWarp } from '../warp/plane-warp';
import { holdsRect } from './keep-boxes';

/** What was pointed at, by where it lies on the plane. */
export interface PointedAt {
  readonly id: string;
  /** Bounds of its part inside the picture, plane px. */
  readonly box: Rect;
}

/** Counted lines and used panels on the plane: what they lie on was pointed at, and belongs into the crop. */
export function pointedAt(correction: Correction, warp: PlaneWarp): PointedAt[] {
  const { width, height } = warp.pictureSize;
  const box = (points: readonly Point[]): Rect | null => {
    const seen = points
      .map(([x, y]): Point => [Math.min(width, Math.max(0, x)), Math.min(height, Math.max(0, y))])
      .map((p) => toPlane(warp, p))
      .filter((p) => p !== null);
    return seen.length === points.length ? boundsOf(seen) : null;
  };
  const onBorder = ([x, y]: Point): boolean => x <= 0 || y <= 0 || x >= width || y >= height;
  const lines = correction.references
    // a line along the border, or across the whole picture, is no part of it that could be kept
    .filter((r) => isCounted(r) && !(onBorder(r.a) && onBorder(r.b)))
    .map((r) => ({ id: r.id, box: box([r.a, r.b]) }));
  const panels = correction.panels.filter((p) => p.used).map((p) => ({ id: p.id, box: box(p.corners ?? (p.edges ?? []).flat()) }));
  return [...lines, ...panels].flatMap(({ id, box: bounds }) => (bounds ? [{ id, box: bounds }] : []));
}

/** Ids of the lines and panels of which a crop on the plane cuts something off. */
export const cutPointedAt = (correction: Correction, warp: PlaneWarp, crop: Rect): string[] =>
  pointedAt(correction, warp)
    .filter(({ box }) => !holdsRect(crop, box))
    .map(({ id }) => id);
