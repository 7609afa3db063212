import type { Reference } from '../correction/schema';
import type { Point, Rect } from '../picture/point';
import { toPlane, type PlaneWarp } from '../warp/plane-warp';
import { planeToScreen, type View } from './view';

/** A line that is being drawn; ends in picture px, and what the stage shows of it. */
export interface DraftLine {
  readonly a: Point;
  readonly b: Point;
  readonly kind: Reference['kind'];
  /** Lean or slope as the stage shows it, degrees. */
  readonly angleDeg: number;
  readonly lengthPx: number;
}

/** A reference as the stage draws it, screen px. */
export interface LineMark {
  readonly id: string;
  readonly kind: Reference['kind'];
  readonly number: number;
  readonly a: Point;
  readonly b: Point;
  readonly middle: Point;
  /** Where the number stands: beside the middle, off the line. */
  readonly badge: Point;
  /** Direction from a to b, degrees, for marks that turn with the line. */
  readonly turnDeg: number;
  /** Lower end of the line, for the bob. */
  readonly foot: Point;
  readonly used: boolean;
  readonly selected: boolean;
  /** Contradicts the others. */
  readonly disagrees: boolean;
}

const BADGE_OFF_PX = 16;

function mark(
  view: View,
  ends: readonly [Point, Point],
  rest: Pick<LineMark, 'id' | 'kind' | 'number' | 'used' | 'selected' | 'disagrees'>,
): LineMark {
  const [a, b] = [planeToScreen(view, ends[0]), planeToScreen(view, ends[1])];
  const middle: Point = [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2];
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  const normal: Point = [(b[1] - a[1]) / length, -(b[0] - a[0]) / length];
  return {
    ...rest,
    a,
    b,
    middle,
    badge: [
      middle[0] + normal[0] * BADGE_OFF_PX * (normal[0] < 0 ? -1 : 1),
      middle[1] + normal[1] * BADGE_OFF_PX * (normal[0] < 0 ? -1 : 1),
    ],
    turnDeg: (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI,
    foot: a[1] > b[1] ? a : b,
  };
}

/** Marks of all references that have an image on the stage. */
export function lineMarks(
  view: View,
  warp: PlaneWarp,
  references: readonly Reference[],
  selectedId: string | null,
  disagreeing: ReadonlySet<string> = new Set(),
): LineMark[] {
  return references.flatMap((reference, index) => {
    const [a, b] = [toPlane(warp, reference.a), toPlane(warp, reference.b)];
    if (!a || !b) return [];
    return [
      mark(view, [a, b], {
        id: reference.id,
        kind: reference.kind,
        number: index + 1,
        used: reference.used,
        selected: reference.id === selectedId,
        disagrees: disagreeing.has(reference.id),
      }),
    ];
  });
}

/** The line being drawn. */
export function draftMark(view: View, warp: PlaneWarp, draft: DraftLine, number: number): LineMark | null {
  const [a, b] = [toPlane(warp, draft.a), toPlane(warp, draft.b)];
  return a && b ? mark(view, [a, b], { id: 'draft', kind: draft.kind, number, used: true, selected: true, disagrees: false }) : null;
}

/** Points as an SVG path, closed. */
export const closedPath = (view: View, points: readonly Point[]): string =>
  points.length === 0
    ? ''
    : `M${points
        .map((p) =>
          planeToScreen(view, p)
            .map((v) => v.toFixed(2))
            .join(' '),
        )
        .join('L')}Z`;

/** A plane rectangle on the screen. */
export function screenRect(view: View, rect: Rect): Rect {
  const [p, q] = [planeToScreen(view, [rect.x, rect.y]), planeToScreen(view, [rect.x + rect.width, rect.y + rect.height])];
  return { x: Math.min(p[0], q[0]), y: Math.min(p[1], q[1]), width: Math.abs(q[0] - p[0]), height: Math.abs(q[1] - p[1]) };
}
