import { lyingOn } from '../session/magnet';
import {
  edgeEasesOnPlane,
  midpoint,
  movedRing,
  toPicture,
  withBoundary,
  withEdgeEase,
  withRingChanged,
  type Correction,
  type EdgeEase,
  type Point,
  type RingHandle,
  type ShapeRing,
} from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { wayOnPlane, type Gesture, type PointerFacts } from './gesture';
import { moveHandle } from './move-handle';

/** Moves a ring by its middle, or shapes it by an end of one of its half axes. */
export function dragRing(model: BenchModel, ring: ShapeRing, handle: RingHandle, start: PointerFacts): Gesture | null {
  model.hand.select(ring.id);
  model.hand.held.set({ kind: 'ring', id: ring.id, handle });
  return moveHandle(model, start, {
    moved: (warp, by) => movedRing(warp, ring, handle, by),
    put: (c, next) => withRingChanged(c, ring.id, next),
    under: (next) => next[handle],
  });
}

/** How far to both sides of its grip an edge is looked for that may hide a boundary, share of the crop along it. */
const SNAP_SHARE = 0.08;

/** Moves the boundary of an edge easing; let go near a real edge that runs along it, it settles there, where it is not seen. */
export function dragBoundary(model: BenchModel, edge: EdgeEase, start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const way = wayOnPlane(model, start);
  const correction = model.session.committed();
  const place = warp && correction && edgeEasesOnPlane(correction, warp).find((e) => e.edge.id === edge.id);
  if (!way || !place) return null;
  model.hand.select(edge.id);
  model.hand.held.set({ kind: 'boundary', id: edge.id });
  const { k, from } = place;
  let to = from;
  return {
    move({ at }) {
      to = from + way(at)[k];
      model.preview((c) => withBoundary(c, edge.id, to));
    },
    release() {
      if (to === from) return false;
      const line = alongBoundary(model, edge.id, k);
      const dragged = (c: Correction): Correction => withBoundary(c, edge.id, to);
      model.session.place({
        ask: async () => (line ? model.magnet.edgesNear(...line) : []),
        meanwhile: dragged,
        land: (c, fits) => {
          const [fit] = lyingOn(fits);
          const [x, y] = fit ? midpoint(fit.a, fit.b) : [0, 0];
          return fit ? withEdgeEase(dragged(c), edge.id, { at: [x, y] }) : dragged(c);
        },
      });
      return false;
    },
    cancel: () => model.session.cancel(),
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
