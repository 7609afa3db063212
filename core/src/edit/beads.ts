import type { TracedEdge } from '../correction/schema';
import { movedPoint } from './references';
import { bowOf } from '../lens/bow';
import { noLens } from '../lens/none';
import type { Point } from '../picture/point';
import type { PlaneWarp } from '../warp/plane-warp';

/** A bead moved by a way on the plane, px; null without an image there. */
export function movedBead(warp: PlaneWarp, edge: TracedEdge, index: number, by: Point): TracedEdge | null {
  const from = edge.points[index];
  const next = from && movedPoint(warp, from, by);
  // a bead by hand: how the whole was followed says no more
  return next ? { ...edge, bowSd: undefined, points: edge.points.map((p, i) => (i === index ? next : p)) } : null;
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
