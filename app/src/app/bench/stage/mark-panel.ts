import {
  distance,
  midpoint,
  movedPanelPoint,
  panelPoints,
  screenToPlane,
  toPicture,
  toPlane,
  withNewPanel,
  withPanelPoint,
  withPanels,
  withPlacedPoint,
  type Correction,
  type Panel,
  type PlaneWarp,
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
  const view = model.stageView.view();
  if (!warp || !view) return null;
  const before = model.hand.corners();
  const pictureAt = (screen: Point): Point | null => toPicture(warp, screenToPlane(model.stageView.view() ?? view, screen));
  const show = (screen: Point): void => {
    const diagonal = before.length === 0 && distance(screen, start.at) >= SHORTEST_PX;
    const screens: Point[] = diagonal ? [start.at, [screen[0], start.at[1]], screen, [start.at[0], screen[1]]] : [screen];
    const placed = screens.map(pictureAt).filter((p) => p !== null);
    if (placed.length === screens.length) model.hand.corners.set([...before, ...placed]);
    model.hand.loupe.set({ at: screenToPlane(model.stageView.view() ?? view, screen), screen });
  };
  show(start.at);
  return {
    move: ({ at }) => show(at),
    release({ at }) {
      // a corner is where the press ended; a click does not drift
      show(distance(at, start.at) < CLICK_PX ? start.at : at);
      model.hand.loupe.set(null);
      placeCorners(model);
      return false;
    },
    cancel() {
      model.hand.corners.set(before);
      model.hand.loupe.set(null);
    },
  };
}

/** With the fourth corner the panel is made, its corners settled on real ones near them. */
export function placeCorners(model: BenchModel): void {
  const placed = model.hand.corners();
  if (placed.length < 4) return;
  model.hand.takeTool('none');
  // what the pointer would do next is known when it moves again
  model.hand.hint.set('');
  const hand = model.magnet.byHand().placedPx;
  model.session.place({
    ask: () => model.magnet.settledCorners(placed, [0, 1, 2, 3]),
    land: (c, settled) =>
      withNewPanel(c, {
        corners: (settled ?? placed).map(([x, y]) => [x, y]) as unknown as NonNullable<Panel['corners']>,
        placedPx: cornersPlacedPx(placed, settled, hand),
      }),
  });
}

/** Corners on which sides meet are this well placed, px (measured on the demo pictures). */
const SETTLED_PX = 0.4;

/** How well corners were placed: those that found no sides to settle on, as the hand left them. */
function cornersPlacedPx(placed: readonly Point[], settled: readonly Point[] | null, handPx: number): number {
  const each = placed.map((p, i) => {
    const to = settled?.[i];
    return to && (to[0] !== p[0] || to[1] !== p[1]) ? SETTLED_PX : handPx;
  });
  return Math.hypot(...each) / Math.sqrt(each.length);
}

/** Moves one corner or edge end of a panel; the others stay, and the picture holds still until the release. */
export function dragPanelPoint(model: BenchModel, panel: Panel, index: number, start: PointerFacts): Gesture | null {
  model.hand.select(null);
  model.hand.held.set({ kind: 'corner', id: panel.id, index });
  const put = (c: Correction, next: Panel): Correction => ({
    ...c,
    panels: c.panels.map((p) => (p.id === panel.id ? withPanelPoint(p, index, panelPoints(next)[index] as [number, number]) : p)),
  });
  return moveHandle(model, start, {
    moved: (warp, by) => movedPanelPoint(warp, panel, index, by),
    put,
    under: (next) => panelPoints(next)[index] ?? null,
    placed: (placed) => {
      const end = panelPoints(placed)[index] as Point;
      const hand = model.magnet.byHand().placedPx;
      model.session.place({
        // an edge's end has no corner to settle on
        ask: async () => (placed.corners ? (await model.magnet.settledCorners(placed.corners, [index]))[index] : null) ?? null,
        meanwhile: (c) => put(c, placed),
        land: (c, corner) => {
          const [x, y] = corner ?? end;
          const placedPx = corner && (corner[0] !== end[0] || corner[1] !== end[1]) ? SETTLED_PX : hand;
          return withPanels(
            c,
            c.panels.map((p) => (p.id === panel.id ? withPlacedPoint(withPanelPoint(p, index, [x, y]), placedPx) : p)),
          );
        },
      });
    },
  });
}

/** Moves one side of a panel square to itself, both of its corners along; the magnet settles them where sides meet. A click selects the panel. */
export function dragPanelSide(model: BenchModel, panel: Panel, index: number, start: PointerFacts): Gesture | null {
  const { corners } = panel;
  if (!corners) return null;
  model.hand.select(panel.id);
  const ends = [index, (index + 1) % 4];
  const put = (c: Correction, next: Panel): Correction => ({ ...c, panels: c.panels.map((p) => (p.id === panel.id ? next : p)) });
  return moveHandle(model, start, {
    moved: (warp, by) => movedSide(warp, panel, ends, by),
    put,
    under: (next) => {
      const [p, q] = ends.map((i) => panelPoints(next)[i] as Point);
      return p && q ? midpoint(p, q) : null;
    },
    placed: (placed) => {
      const four = placed.corners ?? corners;
      model.session.place({
        ask: () => model.magnet.settledCorners(four, ends),
        meanwhile: (c) => put(c, placed),
        land: (c, settled) =>
          put(
            c,
            ends.reduce((p, i) => withPanelPoint(p, i, (settled ?? four)[i] as [number, number]), placed),
          ),
      });
    },
  });
}

function movedSide(warp: PlaneWarp, panel: Panel, [from, to]: readonly number[], by: Point): Panel | null {
  const [p, q] = [from, to].map((i) => toPlane(warp, panelPoints(panel)[i as number] as Point));
  if (!p || !q) return null;
  const length = distance(p, q) || 1;
  const [nx, ny] = [(q[1] - p[1]) / length, (p[0] - q[0]) / length];
  const out = by[0] * nx + by[1] * ny;
  const one = movedPanelPoint(warp, panel, from as number, [out * nx, out * ny]);
  return one && movedPanelPoint(warp, one, to as number, [out * nx, out * ny]);
}
