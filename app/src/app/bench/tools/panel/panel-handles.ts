import {
  distance,
  distanceToSegment,
  isInside,
  midpoint,
  movedPanelPoint,
  originalOf,
  panelMarks,
  panelPoints,
  toPlane,
  withoutPanel,
  withPanel,
  withPanelPoint,
  withPanels,
  withPlacedPoint,
  type Correction,
  type Panel,
  type PanelMark,
  type PlaneWarp,
  type Point,
} from '@able-plumb/core';
import { moveHandle } from '../kit/move-handle';
import { LINE_REACH_PX } from '../kit/near-course';
import { handleFamily, type Gesture, type PointerFacts } from '../tool';
import type { ToolContext } from '../tool-context';

/** A corner, or a side by the corner from which it goes clockwise; by their places in the document. */
export interface PanelPart {
  readonly of: 'corner' | 'side';
  readonly index: number;
}

/** Corners on which sides meet are this well placed, px (measured on the demo pictures). */
export const SETTLED_PX = 0.4;

/** The panels as the stage draws them; none at steps that have nothing to do with them. */
export function panelsOnStage(tool: ToolContext): readonly PanelMark[] {
  const [view, warp, document] = [tool.view(), tool.warp(), tool.document()];
  const step = tool.step();
  if (!view || !warp || !document || !tool.marks() || (step !== 'references' && step !== 'stance')) return [];
  const base = tool.showsOriginal() ? originalOf(document) : document;
  return panelMarks(view, warp, { ...base, panels: document.panels });
}

const panelOf = (tool: ToolContext, id: string): Panel | undefined => tool.committed()?.panels.find((p) => p.id === id);

const putPanel = (c: Correction, next: Panel): Correction => ({ ...c, panels: c.panels.map((p) => (p.id === next.id ? next : p)) });

/** Moves one corner or edge end of a panel; the others stay, and the picture holds still until the release. */
export function dragPanelPoint(tool: ToolContext, panel: Panel, index: number, start: PointerFacts): Gesture | null {
  tool.selection.select(null);
  tool.selection.hold({ tool: 'panel', id: panel.id, part: { of: 'corner', index } });
  const put = (c: Correction, next: Panel): Correction => {
    const [x, y] = panelPoints(next)[index] as Point;
    return { ...c, panels: c.panels.map((p) => (p.id === panel.id ? withPanelPoint(p, index, [x, y]) : p)) };
  };
  return moveHandle(tool, start, {
    moved: (warp, by) => movedPanelPoint(warp, panel, index, by),
    put,
    under: (next) => panelPoints(next)[index] ?? null,
    placed: (placed) => {
      const end = panelPoints(placed)[index] as Point;
      const hand = tool.magnet.byHand().placedPx;
      tool.place({
        // an edge's end has no corner to settle on
        ask: async () => (placed.corners ? (await tool.magnet.settledCorners(placed.corners, [index]))[index] : null) ?? null,
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
export function dragPanelSide(tool: ToolContext, panel: Panel, index: number, start: PointerFacts): Gesture | null {
  const { corners } = panel;
  if (!corners) return null;
  tool.selection.select(panel.id);
  const ends = [index, (index + 1) % 4] as const;
  return moveHandle(tool, start, {
    moved: (warp, by) => movedSide(warp, panel, ends, by),
    put: putPanel,
    under: (next) => {
      const [p, q] = ends.map((i) => panelPoints(next)[i]);
      return p && q ? midpoint(p, q) : null;
    },
    placed: (placed) => {
      const four: readonly Point[] = placed.corners ?? corners;
      tool.place({
        ask: () => tool.magnet.settledCorners(four, ends),
        meanwhile: (c) => putPanel(c, placed),
        land: (c, settled) =>
          putPanel(
            c,
            ends.reduce((p, i) => {
              const [x, y] = (settled ?? four)[i] as Point;
              return withPanelPoint(p, i, [x, y]);
            }, placed),
          ),
      });
    },
  });
}

function movedSide(warp: PlaneWarp, panel: Panel, [from, to]: readonly [number, number], by: Point): Panel | null {
  const [p, q] = [from, to].map((i) => toPlane(warp, panelPoints(panel)[i] as Point));
  if (!p || !q) return null;
  const length = distance(p, q) || 1;
  const [nx, ny] = [(q[1] - p[1]) / length, (p[0] - q[0]) / length];
  const out = by[0] * nx + by[1] * ny;
  const one = movedPanelPoint(warp, panel, from, [out * nx, out * ny]);
  return one && movedPanelPoint(warp, one, to, [out * nx, out * ny]);
}

export const panelHandles = handleFamily<PanelPart>({
  grips: (tool) =>
    panelsOnStage(tool).flatMap(({ id, handles }) => handles.map((at, index) => ({ id, part: { of: 'corner' as const, index }, at }))),
  // sides of a sheet's pieces: those of other panels would be in the way of lines along them
  under: (tool, { at }) => {
    for (const { id, handles } of tool.sheet ? panelsOnStage(tool) : []) {
      const index = handles.findIndex((p, i) => distanceToSegment(at, p, handles[(i + 1) % handles.length] as Point) <= LINE_REACH_PX);
      if (index >= 0) return { id, part: { of: 'side', index } };
    }
    return null;
  },
  hint: (_, { part }) => [
    'move',
    part.of === 'corner'
      ? 'Drag to move this corner; arrow keys nudge it afterwards.'
      : 'Drag to move this side; a click selects its piece.',
  ],
  drag: (tool, { id, part }, at) => {
    const panel = panelOf(tool, id);
    if (!panel) return null;
    return part.of === 'corner' ? dragPanelPoint(tool, panel, part.index, at) : dragPanelSide(tool, panel, part.index, at);
  },
  nudge: (tool, held, by, repeat) => {
    const [warp, panel] = [tool.warp(), held && panelOf(tool, held.id)];
    if (!warp || !held || !panel) return false;
    const moved = movedPanelPoint(warp, panel, held.part.index, by);
    if (moved) tool.commit((c) => withPanel(c, panel.id, withPlacedPoint(moved, tool.magnet.byHand().placedPx)), repeat);
    return true;
  },
  // on a sheet the corners of the piece that is worked on, else those of all panels
  round: (tool) => {
    const wanted = tool.selection.held()?.id ?? tool.selection.id();
    const panels = tool.committed()?.panels ?? [];
    const piece = tool.sheet ? panels.find(({ id }) => id === wanted) : undefined;
    return {
      of: piece ? 'selected' : 'all',
      handles: (piece ? [piece] : panels).flatMap((panel) =>
        panelPoints(panel).map((_, index) => ({ tool: 'panel', id: panel.id, part: { of: 'corner' as const, index } })),
      ),
    };
  },
  remove: (tool) => {
    const held = tool.selection.held();
    if (held?.tool !== 'panel') return false;
    tool.commit((c) => withoutPanel(c, held.id));
    tool.selection.select(null);
    return true;
  },
  // a press inside a sheet's piece takes that one
  around: (tool, { at }) => (tool.sheet ? (panelsOnStage(tool).find(({ handles }) => isInside(handles, at))?.id ?? null) : null),
});
