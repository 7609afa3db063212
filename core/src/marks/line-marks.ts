import type { Reference } from '../correction/schema';
import { type View, planeToScreen } from './view';
import { type Point, type Rect, midpoint } from '../picture/point';
import { type PlaneWarp, courseShown } from '../warp/plane-warp';

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
  /** From a to b, as it runs where easing bends it; as points and as an SVG path. */
  readonly course: readonly Point[];
  readonly path: string;
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
  onPlane: readonly Point[],
  rest: Pick<LineMark, 'id' | 'kind' | 'number' | 'used' | 'selected' | 'disagrees'>,
): LineMark {
  const course = onPlane.map((p) => planeToScreen(view, p));
  const [a, b] = [course[0] as Point, course.at(-1) as Point];
  const middle = course.length % 2 ? (course[course.length >> 1] as Point) : midpoint(a, b);
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
  const normal: Point = [(b[1] - a[1]) / length, -(b[0] - a[0]) / length];
  return {
    ...rest,
    a,
    b,
    course,
    path: openPath(course),
    middle,
    badge: [
      middle[0] + normal[0] * BADGE_OFF_PX * (normal[0] < 0 ? -1 : 1),
      middle[1] + normal[1] * BADGE_OFF_PX * (normal[0] < 0 ? -1 : 1),
    ],
    turnDeg: (Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI,
    foot: a[1] > b[1] ? a : b,
  };
}

/**
 * Marks of all references that have an image on the stage.
 * @param silent lines in use that do not count: drawn as those set aside are
 */
export function lineMarks(
  view: View,
  warp: PlaneWarp,
  references: readonly Reference[],
  selectedId: string | null,
  disagreeing: ReadonlySet<string> = new Set(),
  silent: ReadonlySet<string> = new Set(),
): LineMark[] {
  return references.flatMap((reference, index) => {
    const course = courseShown(warp, reference.a, reference.b);
    if (!course) return [];
    return [
      mark(view, course, {
        id: reference.id,
        kind: reference.kind,
        number: index + 1,
        used: reference.used && !silent.has(reference.id),
        selected: reference.id === selectedId,
        disagrees: disagreeing.has(reference.id),
      }),
    ];
  });
}

/** The line being drawn. */
export function draftMark(view: View, warp: PlaneWarp, draft: DraftLine, number: number): LineMark | null {
  const course = courseShown(warp, draft.a, draft.b);
  return course ? mark(view, course, { id: 'draft', kind: draft.kind, number, used: true, selected: true, disagrees: false }) : null;
}

/** Screen points as an SVG path. */
export const openPath = (points: readonly Point[]): string =>
  points.length === 0 ? '' : `M${points.map((p) => `${p[0].toFixed(2)} ${p[1].toFixed(2)}`).join('L')}`;

/** Plane points as an SVG path on the screen, closed. */
export const closedPath = (view: View, points: readonly Point[]): string =>
  points.length === 0 ? '' : `${openPath(points.map((p) => planeToScreen(view, p)))}Z`;

/** A plane rectangle on the screen. */
export function screenRect(view: View, rect: Rect): Rect {
  const [p, q] = [planeToScreen(view, [rect.x, rect.y]), planeToScreen(view, [rect.x + rect.width, rect.y + rect.height])];
  return { x: Math.min(p[0], q[0]), y: Math.min(p[1], q[1]), width: Math.abs(q[0] - p[0]), height: Math.abs(q[1] - p[1]) };
}
