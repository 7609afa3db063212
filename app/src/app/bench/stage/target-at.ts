import {
  distanceToSegment,
  isInside,
  nearestHandle,
  rectCorners,
  type EdgeMark,
  type LineMark,
  type PanelMark,
  type PanelSide,
  type Point,
  type RingHandle,
  type ShimHandle,
  type StageLine,
} from '@able-plumb/core';
import type { Tool } from '../../state/model';
import type { BoundaryMark, RingMark } from './ease-marks';
import type { PointerFacts } from './gesture';
import type { ShimMark } from './shim-marks';

/** A measuring line as the stage draws it, screen px. */
export interface MeasureMark {
  readonly id: string;
  readonly a: Point;
  readonly b: Point;
  readonly middle: Point;
  readonly text: string;
}

/** What lies on the stage and can be taken hold of. */
export interface StageThings {
  readonly lines: readonly LineMark[];
  /** Traced edges; their beads are small, so that only those of the selected one can be taken hold of, and the ends of the others. */
  readonly traces: readonly EdgeMark[];
  readonly panels: readonly PanelMark[];
  readonly guides: readonly StageLine[];
  readonly measures: readonly MeasureMark[];
  readonly margins: readonly { readonly side: PanelSide; readonly at: Point }[];
  /** Shape rings, and boundaries of edge easings. */
  readonly rings: readonly RingMark[];
  readonly boundaries: readonly BoundaryMark[];
  /** Shims: the handles of the one that is worked on, and the boxes of the others. */
  readonly shims: readonly ShimMark[];
  /** Whether the sides of panels can be taken hold of: those of a sheet's pieces. */
  readonly sides: boolean;
  /** What is in the hand: with a tool only the rings of ends and corners are grabbed, so that a line can start where another ends. */
  readonly tool: Tool;
  /** The handle that was picked last: where two overlap, the other one is next. */
  readonly lastPicked: string | undefined;
}

/** A thing under the pointer. */
export type Target =
  | { readonly kind: 'guide'; readonly id: string; readonly axis: 'x' | 'y' }
  | { readonly kind: 'corner'; readonly id: string; readonly index: number; readonly handle: string }
  | { readonly kind: 'side'; readonly id: string; readonly index: number }
  | { readonly kind: 'bead'; readonly id: string; readonly index: number; readonly handle: string }
  | { readonly kind: 'trace'; readonly id: string }
  | { readonly kind: 'measure'; readonly id: string; readonly which: 'a' | 'b'; readonly handle: string }
  | { readonly kind: 'ring'; readonly id: string; readonly which: RingHandle; readonly handle: string }
  | { readonly kind: 'boundary'; readonly id: string; readonly axis: 'x' | 'y' }
  | { readonly kind: 'shim'; readonly id: string; readonly which: ShimHandle; readonly handle: string }
  | { readonly kind: 'shim-box'; readonly id: string }
  | { readonly kind: 'margin'; readonly side: PanelSide; readonly handle: string }
  | { readonly kind: 'end'; readonly id: string; readonly which: 'a' | 'b'; readonly handle: string }
  | { readonly kind: 'line'; readonly id: string };

const LINE_REACH_PX = 7;
const RING_PX = 8;
const GUIDE_REACH_PX = 4;

/** The thing that a press would take hold of; null for none. Shift with a tool in the hand always draws. */
export function targetAt(
  { lines, traces, panels, guides, measures, margins, rings, boundaries, shims, sides, tool, lastPicked }: StageThings,
  { at, reach, shift }: PointerFacts,
): Target | null {
  const drawing = tool !== 'none';
  if (drawing && shift) return null;
  const handles = [
    ...panels.flatMap((panel) =>
      panel.handles.map((p, index) => ({
        id: `corner:${panel.id}:${index}`,
        at: p,
        target: { kind: 'corner', id: panel.id, index } as const,
      })),
    ),
    ...traces.flatMap(({ id, beads, selected }) =>
      beads.flatMap((p, index) =>
        selected || index === 0 || index === beads.length - 1
          ? [{ id: `bead:${id}:${index}`, at: p, target: { kind: 'bead', id, index } as const }]
          : [],
      ),
    ),
    ...rings.flatMap(({ id, handles: points }) =>
      points.map(({ handle, at: p }) => ({ id: `ring:${id}:${handle}`, at: p, target: { kind: 'ring', id, which: handle } as const })),
    ),
    // a net lies everywhere in its box: what a tool draws there is not meant for it
    ...(drawing ? [] : shims).flatMap(({ id, handles: points }) =>
      points.map(({ handle, at: p }) => ({
        id: `shim:${id}:${JSON.stringify(handle)}`,
        at: p,
        target: { kind: 'shim', id, which: handle } as const,
      })),
    ),
    ...margins.map(({ side, at: p }) => ({ id: `margin:${side}`, at: p, target: { kind: 'margin', side } as const })),
    ...measures.flatMap((line) =>
      (['a', 'b'] as const).map((which) => ({
        id: `measure:${line.id}:${which}`,
        at: line[which],
        target: { kind: 'measure', id: line.id, which } as const,
      })),
    ),
    ...lines.flatMap((line) =>
      (['a', 'b'] as const).map((which) => ({
        id: `end:${line.id}:${which}`,
        at: line[which],
        target: { kind: 'end', id: line.id, which } as const,
      })),
    ),
  ];
  const near = nearestHandle(handles, at, drawing ? Math.min(reach, RING_PX) : reach, lastPicked);
  if (near) return { ...near.target, handle: near.id };
  if (drawing) return null;
  const side = sides ? sideNear(panels, at) : null;
  if (side) return side;
  const inBox = shims.find(({ box, selected }) => !selected && isInside(rectCorners(box), at));
  if (inBox) return { kind: 'shim-box', id: inBox.id };
  const boundary = boundaries.find((b) => Math.abs(at[b.axis === 'x' ? 0 : 1] - b.at) <= LINE_REACH_PX);
  if (boundary) return { kind: 'boundary', id: boundary.id, axis: boundary.axis };
  const guide = guides.find((g) => Math.abs(at[g.axis === 'x' ? 0 : 1] - g.at) <= GUIDE_REACH_PX);
  if (guide) return { kind: 'guide', id: guide.id, axis: guide.axis };
  const trace = traces.find(({ beads }) => nearCourse(at, beads));
  if (trace) return { kind: 'trace', id: trace.id };
  const line = lines.find(({ course }) => nearCourse(at, course));
  return line ? { kind: 'line', id: line.id } : null;
}

/** The side of a panel under the pointer, by the corner from which it goes clockwise; null for none. */
function sideNear(panels: readonly PanelMark[], at: Point): Target | null {
  for (const { id, handles } of panels) {
    const index = handles.findIndex((p, i) => distanceToSegment(at, p, handles[(i + 1) % handles.length] as Point) <= LINE_REACH_PX);
    if (index >= 0) return { kind: 'side', id, index };
  }
  return null;
}

/** Whether a pointer lies on a broken line. */
const nearCourse = (at: Point, course: readonly Point[]): boolean =>
  course.some((p, i) => i > 0 && distanceToSegment(at, course[i - 1] as Point, p) <= LINE_REACH_PX);
