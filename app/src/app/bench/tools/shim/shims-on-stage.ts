import {
  cellsOf,
  openPath,
  planeToScreen,
  sameHandle,
  screenRect,
  shimHandles,
  shimsOnPlane,
  type Point,
  type Rect,
  type ShimHandle,
  type ShimOnPlane,
  type View,
} from '@able-plumb/core';
import { easeGround } from '../kit/ease-ground';
import type { ToolContext } from '../tool-context';

/** A shim as the stage draws it, screen px. */
export interface ShimOnStage {
  readonly id: string;
  readonly box: Rect;
  readonly selected: boolean;
  readonly used: boolean;
  /** Rows and columns as paths; none unless it is worked on. */
  readonly net: readonly string[];
  readonly handles: readonly {
    readonly handle: ShimHandle;
    readonly at: Point;
    readonly held: boolean;
    readonly hold: 'no' | 'moved' | 'nail';
  }[];
  readonly lines: readonly { readonly id: string; readonly path: string; readonly words: string; readonly at: Point | null }[];
  readonly words: string;
}

/** Crossings nearer to each other than this are not drawn, screen px. */
const NEAREST_PX = 9;

/** Points of the plane as a path on the screen. */
const pathOf = (view: View, points: readonly Point[]): string => openPath(points.map((p) => planeToScreen(view, p)));

/** What holds what a handle moves. */
function heldBy({ crossings, strays }: ShimOnPlane, handle: ShimHandle): 'no' | 'moved' | 'nail' {
  if (handle.of === 'hold') return strays.find(({ id }) => id === handle.id)?.nail ? 'nail' : 'moved';
  if (handle.of !== 'crossing') return 'no';
  return crossings.find((c) => c.column === handle.column && c.row === handle.row)?.hold ?? 'no';
}

/** The shims on the stage: the net of the one that is worked on, the boxes of the others. */
export function shimsOnStage(tool: ToolContext): readonly ShimOnStage[] {
  const ground = easeGround(tool);
  if (!ground) return [];
  const { view, shown } = ground;
  const held = tool.selection.held();
  return shimsOnPlane(shown.correction, shown.warp).map((on, i) => {
    const { shim, box, net, lines, share } = on;
    const selected = tool.selection.id() === shim.id;
    // crossings that lie too near to each other to be taken hold of wait until the user zooms in
    const dense = (Math.min(box.width, box.height) / cellsOf(shim.crossings)) * view.scale < NEAREST_PX;
    const handles = shimHandles(on).map(({ handle, at }) => ({
      handle,
      at: planeToScreen(view, at),
      held: held?.tool === 'shim' && held.id === shim.id && sameHandle(held.part as ShimHandle, handle),
      hold: heldBy(on, handle),
    }));
    return {
      id: shim.id,
      box: screenRect(view, box),
      selected,
      used: shim.used,
      net: selected ? net.map((points) => pathOf(view, points)) : [],
      handles: selected ? handles.filter((h) => h.handle.of !== 'crossing' || h.hold !== 'no' || h.held || !dense) : [],
      lines: lines.map(({ line, points }) => {
        const end = points.at(-1);
        return { id: line.id, path: pathOf(view, points), words: line.kind, at: end ? planeToScreen(view, end) : null };
      }),
      words: `shim ${i + 1}${shim.used ? '' : ', set aside'}${share < 1 ? `, ${(share * 100).toFixed(0)} % of what is asked` : ''}`,
    };
  });
}
