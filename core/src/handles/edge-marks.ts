import type { TracedEdge } from '../correction/schema';
import { bowOf } from '../lens/bow';
import { noLens } from '../lens/none';
import type { Point } from '../picture/point';
import { toPlane, type PlaneWarp } from '../warp/plane-warp';
import { movedPoint } from './edit-correction';
import { openPath } from './line-marks';
import { planeToScreen, type View } from './view';

/** A traced edge as the stage draws it, screen px. */
export interface EdgeMark {
  readonly id: string;
  readonly number: number;
  readonly beads: readonly Point[];
  readonly path: string;
  /** Where the number stands: beyond the first bead, in line with the edge. */
  readonly badge: Point;
  readonly selected: boolean;
  /** Contradicts the other edges. */
  readonly disagrees: boolean;
}

const BADGE_OFF_PX = 20;

/** Marks of all traced edges that have an image on the stage. */
export function edgeMarks(
  view: View,
  warp: PlaneWarp,
  edges: readonly TracedEdge[],
  selectedId: string | null,
  disagreeing: ReadonlySet<string> = new Set(),
): EdgeMark[] {
  return edges.flatMap(({ id, points }, index) => {
    const beads = points.map((p) => toPlane(warp, p)).flatMap((p) => (p ? [planeToScreen(view, p)] : []));
    const [first, last] = [beads[0], beads.at(-1)];
    if (!first || !last) return [];
    const length = Math.hypot(last[0] - first[0], last[1] - first[1]) || 1;
    const badge: Point = [
      first[0] - ((last[0] - first[0]) / length) * BADGE_OFF_PX,
      first[1] - ((last[1] - first[1]) / length) * BADGE_OFF_PX,
    ];
    return [{ id, number: index + 1, beads, path: openPath(beads), badge, selected: id === selectedId, disagrees: disagreeing.has(id) }];
  });
}

/** A bead moved by a way on the plane, px; null without an image there. */
export function movedBead(warp: PlaneWarp, edge: TracedEdge, index: number, by: Point): TracedEdge | null {
  const from = edge.points[index];
  const next = from && movedPoint(warp, from, by);
  return next ? { ...edge, points: edge.points.map((p, i) => (i === index ? next : p)) } : null;
}

/** Beads in their order along an edge: by where they lie on the line between the two that are farthest apart. */
export function orderedBeads(beads: readonly Point[]): Point[] {
  let [a, b, most]: [Point, Point, number] = [[0, 0], [1, 0], -1];
  for (const p of beads)
    for (const q of beads) {
      const away = Math.hypot(q[0] - p[0], q[1] - p[1]);
      if (away > most) [a, b, most] = [p, q, away];
    }
  const along = (p: Point): number => (p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1]);
  return [...beads].sort((p, q) => along(p) - along(q));
}

/** Bow of beads as they lie in the picture, px; null with fewer than three. */
export const bowInPicture = (beads: readonly Point[]): number | null =>
  beads.length < 3 ? null : bowOf(noLens({ width: 1, height: 1 }), beads);
