import {
  distance,
  movedPanelPoint,
  panelPoints,
  screenToPlane,
  toPicture,
  withNewPanel,
  withPanelPoint,
  withPanels,
  type Correction,
  type Panel,
  type Point,
} from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { CLICK_PX, type Gesture, type PointerFacts } from './gesture';
import { moveHandle } from './move-handle';

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
      placeCorners(model);
      return false;
    },
    cancel() {
      model.corners.set(before);
      model.loupe.set(null);
    },
  };
}

/** With the fourth corner the panel is made, its corners settled on real ones near them. */
export function placeCorners(model: BenchModel): void {
  if (model.corners().length < 4) return;
  model.inOrder(async () => {
    const placed = model.corners();
    // taken back meanwhile
    if (placed.length < 4) return;
    const settled = await model.settledCorners(placed, [0, 1, 2, 3]);
    if (model.corners() !== placed) return;
    const quad = settled.map((p) => [p[0], p[1]]) as unknown as NonNullable<Panel['corners']>;
    model.takeTool('none');
    // what the pointer would do next is known when it moves again
    model.hint.set('');
    model.commit((c) => withNewPanel(c, { corners: quad }));
  });
}

/** Moves one corner or edge end of a panel; the others stay, and the picture holds still until the release. */
export function dragPanelPoint(model: BenchModel, panel: Panel, index: number, start: PointerFacts): Gesture | null {
  model.select(null);
  model.held.set({ kind: 'corner', id: panel.id, index });
  const put = (c: Correction, next: Panel): Correction => ({ ...c, panels: c.panels.map((p) => (p.id === panel.id ? next : p)) });
  return moveHandle(model, start, {
    moved: (warp, by) => movedPanelPoint(warp, panel, index, by),
    put,
    under: (next) => panelPoints(next)[index] ?? null,
    placed: (placed) =>
      model.inOrder(async () => {
        // an edge's end has no corner to settle on
        const end = panelPoints(placed)[index] as Point;
        const at = placed.corners ? ((await model.settledCorners(placed.corners, [index]))[index] ?? end) : end;
        const next = withPanelPoint(placed, index, [at[0], at[1]]);
        model.commit((c) => withPanels(c, put(c, next).panels));
      }),
  });
}
