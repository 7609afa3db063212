import { distance, planeToScreen, screenVectorToPlane, toPlane, type Correction, type PlaneWarp, type Point } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';

/** What a press on a handle moves. */
export interface Moving<T> {
  /** The thing after a way on the plane, px; null without an image there. */
  readonly moved: (warp: PlaneWarp, by: Point) => T | null;
  /** The document with it so, while it is held. */
  readonly put: (c: Correction, next: T) => Correction;
  /** The picture point that goes under the loupe; null for none. */
  readonly under: (next: T) => Point | null;
  /** What is done with it when it is let go. */
  readonly placed: (next: T) => void;
}

/** Below this way a press has not moved anything, screen px. */
const STILL_PX = 2;

/** Moves something by one of its handles, which is seen through the loupe; the picture holds still until the release. */
export function moveHandle<T>(model: BenchModel, start: PointerFacts, { moved, put, under, placed }: Moving<T>): Gesture | null {
  const warp = model.stageWarp();
  const view = model.view();
  if (!warp || !view) return null;
  let last: T | null = null;
  return {
    move({ at }) {
      if (last === null && distance(at, start.at) < STILL_PX) return;
      const next = moved(warp, screenVectorToPlane(view, [at[0] - start.at[0], at[1] - start.at[1]]));
      if (next === null) return;
      last = next;
      model.preview((c) => put(c, next));
      const point = under(next);
      const plane = point && toPlane(warp, point);
      if (plane) model.loupe.set({ at: plane, screen: planeToScreen(view, plane) });
    },
    release() {
      model.loupe.set(null);
      if (last !== null) placed(last);
      return false;
    },
    cancel() {
      model.loupe.set(null);
      model.cancel();
    },
  };
}
