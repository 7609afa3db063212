import { distance, mapQuad, quadOf, screenToPlane, toPicture, withNewPanel, type Point } from '@able-plumb/core';
import { CLICK_PX } from '../kit/pointer-way';
import type { Gesture, PointerFacts, ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { panelHandles, SETTLED_PX } from './panel-handles';
import { PanelMarks } from './panel-marks';

/** Shorter diagonals are a slip of the hand, screen px. */
const SHORTEST_PX = 24;

const HINTS = ['Click the corners of a rectangle, or drag its diagonal.', 'Three more corners.', 'Two more corners.', 'The last corner.'];

/** One corner of a panel by a click, moved under the loupe until the release; or all four by dragging the diagonal. */
export function markPanel(tool: ToolContext, start: PointerFacts): Gesture | null {
  const warp = tool.warp();
  const view = tool.view();
  if (!warp || !view) return null;
  const { points } = tool.drawing;
  const before = points();
  const pictureAt = (screen: Point): Point | null => toPicture(warp, screenToPlane(tool.view() ?? view, screen));
  const show = (screen: Point): void => {
    const diagonal = before.length === 0 && distance(screen, start.at) >= SHORTEST_PX;
    const screens: Point[] = diagonal ? [start.at, [screen[0], start.at[1]], screen, [start.at[0], screen[1]]] : [screen];
    const placed = screens.map(pictureAt).filter((p) => p !== null);
    if (placed.length === screens.length) points.set([...before, ...placed]);
    tool.loupe.set({ at: screenToPlane(tool.view() ?? view, screen), screen });
  };
  show(start.at);
  return {
    move: ({ at }) => show(at),
    release({ at }) {
      // a corner is where the press ended; a click does not drift
      show(distance(at, start.at) < CLICK_PX ? start.at : at);
      tool.loupe.set(null);
      placeCorners(tool);
      return false;
    },
    cancel() {
      points.set(before);
      tool.loupe.set(null);
    },
  };
}

/** With the fourth corner the panel is made, its corners settled on real ones near them. */
function placeCorners(tool: ToolContext): void {
  const placed = quadOf(tool.drawing.points());
  if (!placed) return;
  tool.layDown();
  // what the pointer would do next is known when it moves again
  tool.say('');
  const hand = tool.magnet.byHand().placedPx;
  tool.place({
    ask: () => tool.magnet.settledCorners(placed, [0, 1, 2, 3]),
    land: (c, settled) => {
      const corners = (settled && quadOf(settled)) ?? placed;
      return withNewPanel(c, {
        corners: mapQuad(corners, ([x, y]): [number, number] => [x, y]),
        placedPx: cornersPlacedPx(placed, settled, hand),
      });
    },
  });
}

/** How well corners were placed: those that found no sides to settle on, as the hand left them. */
function cornersPlacedPx(placed: readonly Point[], settled: readonly Point[] | null, handPx: number): number {
  const each = placed.map((p, i) => {
    const to = settled?.[i];
    return to && (to[0] !== p[0] || to[1] !== p[1]) ? SETTLED_PX : handPx;
  });
  return Math.hypot(...each) / Math.sqrt(each.length);
}

/** A rectangle in reality by its four corners. */
export const panel: ToolDefinition = {
  id: 'panel',
  step: 'references',
  name: 'Panel',
  icon: 'panel',
  tip: 'Panel: four corners of a rectangle, or drag its diagonal',
  key: { action: 'panel', keys: ['q'], does: 'Panel: mark the corners of a rectangle' },
  onSheet: 'too',
  wholePicture: true,
  enter: 'click',
  hint: (tool) => ['crosshair', HINTS[tool.drawing.points().length] ?? ''],
  begin: markPanel,
  back(tool) {
    const some = tool.drawing.points().length > 0;
    tool.drawing.points.set([]);
    return some;
  },
  handles: panelHandles,
  marks: PanelMarks,
};
