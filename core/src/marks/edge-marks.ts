import type { TracedEdge } from '../correction/schema';
import { openPath } from './line-marks';
import { type View, planeToScreen } from './view';
import type { Point } from '../picture/point';
import { type PlaneWarp, toPlane } from '../warp/plane-warp';

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
