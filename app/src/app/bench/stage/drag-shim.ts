import {
  holdAt,
  planeToScreen,
  PlumbError,
  sameHandle,
  shimHandles,
  shimOf,
  shimsOnPlane,
  withNailSwitched,
  withoutHold,
  withShimHandleMoved,
  placesOf,
  type Correction,
  type Point,
  type ShimHandle,
} from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { wayOnPlane, type Gesture, type PointerFacts } from './gesture';

const FOLDS = 'It stops here: more would fold the picture.';
/** Below this way a press has not moved anything, screen px. */
const STILL_PX = 2;
/** As near to a guide a crossing settles on it, screen px. */
const GUIDE_PX = 6;

/** Where a handle of a shim is seen under a correction, plane px; null without an image. */
function handlePlace(model: BenchModel, id: string, handle: ShimHandle): Point | null {
  const shown = model.shown();
  const shim = shown && shimsOnPlane(shown.correction, shown.warp).find((s) => s.shim.id === id);
  return (shim && shimHandles(shim).find((h) => sameHandle(h.handle, handle))?.at) ?? null;
}

/** Moves a crossing, a column, a row or a corner of a shim, seen through the loupe; it stops before anything folds. */
export function dragShim(model: BenchModel, id: string, handle: ShimHandle, start: PointerFacts): Gesture | null {
  const way = wayOnPlane(model, start);
  model.hand.select(id);
  model.hand.held.set({ kind: 'shim', id, handle });
  const from = handlePlace(model, id, handle);
  if (!way || !from) return null;
  let moved = false;
  return {
    move({ at }) {
      let by = way(at);
      const view = model.stageView.view();
      if (!view || (!moved && Math.hypot(...by) * view.scale < STILL_PX)) return;
      moved = true;
      by = onGuides(model, from, by, GUIDE_PX / view.scale);
      try {
        let stopped = false;
        model.preview((c) => {
          const next = withShimHandleMoved(c, id, handle, by);
          stopped = next.stopped;
          return next.correction;
        });
        model.hand.hint.set(stopped ? FOLDS : '');
      } catch (error) {
        if (!(error instanceof PlumbError)) throw error;
        model.hand.hint.set(error.message);
        return;
      }
      const plane = handlePlace(model, id, handle);
      if (plane) model.hand.loupe.set({ at: plane, screen: planeToScreen(view, plane) });
    },
    release() {
      model.hand.loupe.set(null);
      if (moved) model.session.commitShown();
      return false;
    },
    cancel() {
      model.hand.loupe.set(null);
      model.session.cancel();
    },
  };
}

/** A way that ends on a guide where it comes near to one, as long as the magnet holds. */
function onGuides(model: BenchModel, from: Point, by: Point, reach: number): Point {
  if (!model.settings().magnet || model.magnet.letGo()) return by;
  const guides = model.session.committed()?.guides ?? [];
  return [0, 1].map((k) => {
    const at = (from[k] as number) + (by[k] as number);
    const near = guides.find((g) => g.axis === (k === 0 ? 'x' : 'y') && Math.abs(g.at - at) <= reach);
    return near ? near.at - (from[k] as number) : (by[k] as number);
  }) as unknown as Point;
}

/** The same by keys. */
export function nudgeShim(model: BenchModel, id: string, handle: ShimHandle, by: Point, step: string): void {
  let stopped = false;
  model.attempt((c) => {
    const next = withShimHandleMoved(c, id, handle, by);
    stopped = next.stopped;
    return next.correction;
  }, step);
  model.hand.hint.set(stopped ? FOLDS : '');
}

/** Changes what holds the crossing, or all of the column or row, in the hand of the keyboard; false where none is. */
function heldPlaces(model: BenchModel, change: (c: Correction, id: string, from: Point) => Correction, holding = false): boolean {
  const held = model.hand.held();
  const committed = model.session.committed();
  const shim = held?.kind === 'shim' && committed ? shimOf(committed, held.id) : null;
  if (!shim || held?.kind !== 'shim' || held.handle.of === 'corner') return false;
  const places = placesOf(shim, held.handle).filter((from) => !holding || holdAt(shim, from) !== null);
  if (places.length > 0) model.session.commit((c) => places.reduce((next, from) => change(next, shim.id, from), c));
  return true;
}

/** Nails what is held of a net where it is, or lets it go. */
export const nailHeld = (model: BenchModel): boolean => heldPlaces(model, withNailSwitched);

/** What is held of a net is free again: it goes where the rest of the net takes it. */
export const freeHeld = (model: BenchModel): boolean => heldPlaces(model, withoutHold, true);
