import { distance, planeToScreen, toPlane, type Correction, type PlaneWarp, type Point } from '@able-plumb/core';
import type { Gesture, PointerFacts } from '../tool';
import type { ToolContext } from '../tool-context';
import { STILL_PX, wayOnPlane } from './pointer-way';

/** What a press on a handle moves. */
export interface Moving<T> {
  /** The thing after a way on the plane, px; null without an image there. */
  readonly moved: (warp: PlaneWarp, by: Point) => T | null;
  /** The document with it so, while it is held. */
  readonly put: (c: Correction, next: T) => Correction;
  /** The picture point that goes under the loupe; null for none. */
  readonly under: (next: T) => Point | null;
  /** What is done with it when it is let go: committed as it is shown, where this is missing. */
  readonly placed?: (next: T) => void;
}

/** Moves something by one of its handles, which is seen through the loupe; the picture holds still until the release. */
export function moveHandle<T>(tool: ToolContext, start: PointerFacts, { moved, put, under, placed }: Moving<T>): Gesture | null {
  const warp = tool.warp();
  const way = wayOnPlane(tool, start);
  if (!warp || !way) return null;
  let last: T | null = null;
  return {
    move({ at }) {
      if (last === null && distance(at, start.at) < STILL_PX) return;
      const next = moved(warp, way(at));
      if (next === null) return;
      last = next;
      tool.preview((c) => put(c, next));
      const [point, view] = [under(next), tool.view()];
      const plane = point && toPlane(warp, point);
      if (plane && view) tool.loupe.set({ at: plane, screen: planeToScreen(view, plane) });
    },
    release() {
      tool.loupe.set(null);
      if (last === null) return false;
      if (placed) placed(last);
      else tool.commitShown();
      return false;
    },
    cancel() {
      tool.loupe.set(null);
      tool.cancel();
    },
  };
}
