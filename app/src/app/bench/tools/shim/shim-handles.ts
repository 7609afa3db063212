import {
  holdAt,
  isInside,
  placesOf,
  planeToScreen,
  PlumbError,
  rectCorners,
  sameHandle,
  shimHandles as handlesOf,
  shimOf,
  shimsOnPlane,
  withNailSwitched,
  withoutHold,
  withoutShim,
  withShimHandleMoved,
  type Correction,
  type Point,
  type Shim,
  type ShimHandle,
} from '@able-plumb/core';
import { STILL_PX, wayOnPlane } from '../kit/pointer-way';
import { removeSelected } from '../kit/remove-selected';
import { handleFamily, type Gesture, type PointerFacts } from '../tool';
import type { Held, ToolContext } from '../tool-context';
import { shimsOnStage } from './shims-on-stage';

/** A part of a shim's net, or its whole box. */
type ShimPart = ShimHandle | 'box';

const FOLDS = 'It stops here: more would fold the picture.';
/** As near to a guide a crossing settles on it, screen px. */
const GUIDE_PX = 6;

/** The shim that is worked on; null for none. */
export const selectedShim = (tool: Pick<ToolContext, 'document' | 'selection'>): Shim | null =>
  tool.document()?.ease.shims.find(({ id }) => id === tool.selection.id()) ?? null;

/** Where a handle of a shim is seen under the correction as shown, plane px; null without an image. */
function handlePlace(tool: ToolContext, id: string, handle: ShimHandle): Point | null {
  const shown = tool.shown();
  const shim = shown && shimsOnPlane(shown.correction, shown.warp).find((s) => s.shim.id === id);
  return (shim && handlesOf(shim).find((h) => sameHandle(h.handle, handle))?.at) ?? null;
}

/** Moves a crossing, a column, a row or a corner of a shim, seen through the loupe; it stops before anything folds. */
export function dragShim(tool: ToolContext, id: string, handle: ShimHandle, start: PointerFacts): Gesture | null {
  const way = wayOnPlane(tool, start);
  tool.selection.select(id);
  tool.selection.hold({ tool: 'shim', id, part: handle });
  const from = handlePlace(tool, id, handle);
  if (!way || !from) return null;
  let moved = false;
  return {
    move({ at }) {
      const by = way(at);
      const view = tool.view();
      if (!view || (!moved && Math.hypot(...by) * view.scale < STILL_PX)) return;
      moved = true;
      try {
        let stopped = false;
        tool.preview((c) => {
          const next = withShimHandleMoved(c, id, handle, onGuides(tool, from, by, GUIDE_PX / view.scale));
          stopped = next.stopped;
          return next.correction;
        });
        tool.say(stopped ? FOLDS : '');
      } catch (error) {
        if (!(error instanceof PlumbError)) throw error;
        tool.say(error.message);
        return;
      }
      const plane = handlePlace(tool, id, handle);
      if (plane) tool.loupe.set({ at: plane, screen: planeToScreen(view, plane) });
    },
    release() {
      tool.loupe.set(null);
      if (moved) tool.commitShown();
      return false;
    },
    cancel() {
      tool.loupe.set(null);
      tool.cancel();
    },
  };
}

/** A way that ends on a guide where it comes near to one, as long as the magnet holds. */
function onGuides(tool: ToolContext, from: Point, by: Point, reach: number): Point {
  if (!tool.magnet.holds()) return by;
  const guides = tool.committed()?.guides ?? [];
  const along = (axis: 'x' | 'y', start: number, way: number): number => {
    const near = guides.find((g) => g.axis === axis && Math.abs(g.at - start - way) <= reach);
    return near ? near.at - start : way;
  };
  return [along('x', from[0], by[0]), along('y', from[1], by[1])];
}

/** Changes what holds the crossing, or all of the column or row, in the hand of the keyboard; false where none is. */
function changeHeld(tool: ToolContext, change: (c: Correction, id: string, from: Point) => Correction, holding = false): boolean {
  const [held, committed] = [tool.selection.held(), tool.committed()];
  const handle = held?.tool === 'shim' ? (held.part as ShimHandle) : null;
  const shim = held && handle && committed ? shimOf(committed, held.id) : null;
  if (!shim || !handle || handle.of === 'corner') return false;
  const places = placesOf(shim, handle).filter((from) => !holding || holdAt(shim, from) !== null);
  if (places.length > 0) tool.commit((c) => places.reduce((next, from) => change(next, shim.id, from), c));
  return true;
}

/** Nails what is held of a net where it is, or lets it go. */
export const nailHeld = (tool: ToolContext): boolean => changeHeld(tool, withNailSwitched);

/** What is held of a net is free again: it goes where the rest of the net takes it. */
const freeHeld = (tool: ToolContext): boolean => changeHeld(tool, withoutHold, true);

const FIRST_CROSSING: ShimHandle = { of: 'crossing', column: 0, row: 0 };
const held = (id: string, part: ShimHandle): Held<ShimPart> => ({ tool: 'shim', id, part });

export const shimHandles = handleFamily<ShimPart>({
  // a net lies everywhere in its box: what a tool draws there is not meant for it
  grips: (tool) =>
    tool.inHand() === null
      ? shimsOnStage(tool).flatMap(({ id, handles }) => handles.map(({ handle, at }) => ({ id, part: handle, at })))
      : [],
  under: (tool, { at }) => {
    const found = shimsOnStage(tool).find(({ box, selected }) => !selected && isInside(rectCorners(box), at));
    return found ? { id: found.id, part: 'box' } : null;
  },
  hint: (_, { part }) => {
    if (part === 'box') return ['pointer', 'Click to work on this shim.'];
    const shape = part.of === 'column' ? 'ew-resize' : part.of === 'row' ? 'ns-resize' : 'move';
    return [shape, 'Drag to move this part of the net; O nails a crossing, arrow keys nudge it.'];
  },
  drag: (tool, { id, part }, at) => {
    if (part !== 'box') return dragShim(tool, id, part, at);
    tool.selection.select(id);
    return null;
  },
  nudge: (tool, handle, by, repeat) => {
    if (!handle || handle.part === 'box' || !tool.committed()) return false;
    const part = handle.part;
    let stopped = false;
    tool.attempt((c) => {
      const next = withShimHandleMoved(c, handle.id, part, by);
      stopped = next.stopped;
      return next.correction;
    }, repeat);
    tool.say(stopped ? FOLDS : '');
    return true;
  },
  // the net of the shim that is worked on, else one crossing of each
  round: (tool) => {
    const ground = tool.step() === 'ease' ? tool.shown() : null;
    if (!ground) return { of: 'all', handles: [] };
    const worked = shimsOnPlane(ground.correction, ground.warp).find(({ shim: { id } }) => id === tool.selection.id());
    return worked
      ? { of: 'selected', handles: handlesOf(worked).map(({ handle }) => held(worked.shim.id, handle)) }
      : { of: 'all', handles: (tool.committed()?.ease.shims ?? []).map(({ id }) => held(id, FIRST_CROSSING)) };
  },
  remove: (tool) => freeHeld(tool) || removeSelected(tool, ({ ease }) => ease.shims, withoutShim),
});
