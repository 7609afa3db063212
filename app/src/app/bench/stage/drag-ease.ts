import {
  edgeEasesOnPlane,
  midpoint,
  movedRing,
  screenVectorToPlane,
  toPicture,
  withBoundary,
  withEdgeEase,
  withRingChanged,
  type EdgeEase,
  type Point,
  type RingHandle,
  type ShapeRing,
} from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';
import { moveHandle } from './move-handle';

/** Moves a ring by its middle, or shapes it by an end of one of its half axes. */
export function dragRing(model: BenchModel, ring: ShapeRing, handle: RingHandle, start: PointerFacts): Gesture | null {
  model.select(ring.id);
  model.held.set({ kind: 'ring', id: ring.id, handle });
  return moveHandle(model, start, {
    moved: (warp, by) => movedRing(warp, ring, handle, by),
    put: (c, next) => withRingChanged(c, ring.id, next),
    under: (next) => next[handle],
    placed: () => model.commitShown(),
  });
}

/** How far to both sides of its grip an edge is looked for that may hide a boundary, share of the crop along it. */
const SNAP_SHARE = 0.08;

/** Moves the boundary of an edge easing; let go near a real edge that runs along it, it settles there, where it is not seen. */
export function dragBoundary(model: BenchModel, edge: EdgeEase, start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const view = model.view();
  const correction = model.committed();
  const place = warp && correction && edgeEasesOnPlane(correction, warp).find((e) => e.edge.id === edge.id);
  if (!view || !place) return null;
  model.select(edge.id);
  model.held.set({ kind: 'boundary', id: edge.id });
  const { k, from } = place;
  return {
    move({ at }) {
      const by = screenVectorToPlane(view, [at[0] - start.at[0], at[1] - start.at[1]])[k];
      model.preview((c) => withBoundary(c, edge.id, from + by));
    },
    release() {
      if (!model.gestureActive()) return false;
      const line = alongBoundary(model, edge.id, k);
      void (line ? model.edgesNear(...line) : Promise.resolve([])).then(([fit]) =>
        model.commitShown((shown) => {
          const [x, y] = fit ? midpoint(fit.a, fit.b) : [0, 0];
          return fit ? withEdgeEase(shown, edge.id, { at: [x, y] }) : shown;
        }),
      );
      return false;
    },
    cancel: () => model.cancel(),
  };
}

/** A stretch of a boundary about its grip as it is shown, by its ends in the picture, px; null without an image there. */
function alongBoundary(model: BenchModel, id: string, k: 0 | 1): readonly [Point, Point] | null {
  const shown = model.shown();
  const place = shown && edgeEasesOnPlane(shown.correction, shown.warp).find((e) => e.edge.id === id);
  if (!place) return null;
  const { warp } = shown;
  const [x, y] = place.at;
  const half = SNAP_SHARE * (k === 0 ? warp.crop.height : warp.crop.width);
  const [a, b] = [-half, half].map((off) => toPicture(warp, k === 0 ? [x, y + off] : [x + off, y]));
  return a && b ? [a, b] : null;
}
