import {
  distance,
  movedCorner,
  planeToScreen,
  screenToPlane,
  screenVectorToPlane,
  toPicture,
  toPlane,
  withNewPanel,
  withPanels,
  type Panel,
  type Point,
} from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { CLICK_PX, type Gesture, type PointerFacts } from './gesture';

/** Shorter diagonals are a slip of the hand, screen px. */
const SHORTEST_PX = 24;

/** One corner of a panel by a click, moved under the loupe until the release; or all four by dragging the diagonal. */
export function markPanel(model: BenchModel, start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const view = model.view();
  if (!warp || !view) return null;
  const before = model.corners();
  const pictureAt = (screen: Point): Point | null => toPicture(warp, screenToPlane(view, screen));
  const show = (screen: Point): void => {
    const diagonal = before.length === 0 && distance(screen, start.at) >= SHORTEST_PX;
    const screens: Point[] = diagonal ? [start.at, [screen[0], start.at[1]], screen, [start.at[0], screen[1]]] : [screen];
    const placed = screens.map(pictureAt).filter((p) => p !== null);
    if (placed.length === screens.length) model.corners.set([...before, ...placed]);
    model.loupe.set({ at: screenToPlane(view, screen), screen });
  };
  show(start.at);
  return {
    move: ({ at }) => show(at),
    release({ at }) {
      // a corner is where the press ended; a click does not drift
      show(distance(at, start.at) < CLICK_PX ? start.at : at);
      model.loupe.set(null);
      const corners = model.corners();
      if (corners.length < 4) return false;
      const quad = corners.slice(0, 4).map((p) => [p[0], p[1]]) as unknown as Panel['corners'];
      model.corners.set([]);
      model.commit((c) => withNewPanel(c, quad));
      model.takeTool('none');
      return false;
    },
    cancel() {
      model.corners.set(before);
      model.loupe.set(null);
    },
  };
}

/** Moves one corner of a panel; the others stay, and the picture holds still until the release. */
export function dragCorner(model: BenchModel, panel: Panel, index: number, start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const view = model.view();
  if (!warp || !view) return null;
  let moved = false;
  return {
    move({ at }) {
      const next = movedCorner(warp, panel, index, screenVectorToPlane(view, [at[0] - start.at[0], at[1] - start.at[1]]));
      if (!next) return;
      moved = true;
      model.preview((c) => ({ ...c, panels: c.panels.map((p) => (p.id === panel.id ? next : p)) }));
      const plane = toPlane(warp, next.corners[index] as Point);
      if (plane) model.loupe.set({ at: plane, screen: planeToScreen(view, plane) });
    },
    release() {
      model.loupe.set(null);
      if (moved) model.commitShown((shown) => withPanels(shown, shown.panels));
      return false;
    },
    cancel() {
      model.loupe.set(null);
      model.cancel();
    },
  };
}
