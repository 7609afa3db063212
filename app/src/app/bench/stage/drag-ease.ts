import {
  edgeEasesOnPlane,
  midpoint,
  movedRing,
  screenToPlane,
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

/** How far to both sides of the pointer an edge is looked for that may hide a boundary, share of the crop along it. */
const SNAP_SHARE = 0.08;

/** Moves the boundary of an edge easing; let go near a real edge that runs along it, it settles there, where it is not seen. */
export function dragBoundary(model: BenchModel, edge: EdgeEase, start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const view = model.view();
  const crop = model.shown()?.warp.crop;
  const correction = model.committed();
  if (!warp || !view || !crop || !correction) return null;
  model.select(edge.id);
  model.held.set({ kind: 'boundary', id: edge.id });
  const place = edgeEasesOnPlane(correction, warp).find((e) => e.edge.id === edge.id);
  if (!place) return null;
  const { k, from } = place;
  let last: Point | null = null;
  return {
    move({ at }) {
      last = screenToPlane(view, at);
      const by = screenVectorToPlane(view, [at[0] - start.at[0], at[1] - start.at[1]])[k];
      model.preview((c) => withBoundary(c, edge.id, from + by));
    },
    release() {
      if (!model.gestureActive() || !last) return false;
      model.commitShown();
      const half = SNAP_SHARE * (k === 0 ? crop.height : crop.width);
      const end = (sign: number): Point | null =>
        last && toPicture(warp, k === 0 ? [last[0], last[1] + sign * half] : [last[0] + sign * half, last[1]]);
      const [a, b] = [end(-1), end(1)];
      if (a && b)
        model.inOrder(async () => {
          const fit = (await model.edgesNear(a, b))[0];
          if (!fit) return;
          const [x, y] = midpoint(fit.a, fit.b);
          model.commit((c) => withEdgeEase(c, edge.id, { at: [x, y] }));
        });
      return false;
    },
    cancel: () => model.cancel(),
  };
}
