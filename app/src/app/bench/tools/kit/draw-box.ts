import { distance, screenToPlane, type Correction, type PlaneWarp, type Rect } from '@able-plumb/core';
import type { Gesture, PointerFacts } from '../tool';
import type { ToolContext } from '../tool-context';
import { CLICK_PX } from './pointer-way';

/**
 * Drags a rectangle over the result; let go, it makes something of the document, and the tool is laid down.
 * @param made the document with what the box makes, plane px
 * @param after what follows, with the document as it is then
 */
export function drawBox(
  tool: ToolContext,
  start: PointerFacts,
  made: (c: Correction, warp: PlaneWarp, box: Rect) => Correction,
  after: (made: Correction) => void = () => undefined,
): Gesture | null {
  const view = tool.view();
  const warp = tool.warp();
  if (!view || !warp) return null;
  const from = screenToPlane(view, start.at);
  const boxTo = ({ at }: PointerFacts): Rect => {
    const to = screenToPlane(tool.view() ?? view, at);
    return {
      x: Math.min(from[0], to[0]),
      y: Math.min(from[1], to[1]),
      width: Math.abs(to[0] - from[0]),
      height: Math.abs(to[1] - from[1]),
    };
  };
  return {
    move: (pointer) => tool.drawing.box.set(boxTo(pointer)),
    release(pointer) {
      tool.drawing.box.set(null);
      if (distance(pointer.at, start.at) < CLICK_PX) return false;
      tool.attempt((c) => made(c, warp, boxTo(pointer)));
      tool.layDown();
      const committed = tool.committed();
      if (committed) after(committed);
      return false;
    },
    cancel: () => tool.drawing.box.set(null),
  };
}
