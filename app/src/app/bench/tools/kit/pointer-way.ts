import { screenToPlane, type Point } from '@able-plumb/core';
import type { PointerFacts } from '../tool';
import type { ToolContext } from '../tool-context';

/** Below this way a press and release are a click, screen px. */
export const CLICK_PX = 4;
/** Below this way a press has not moved anything, screen px. */
export const STILL_PX = 2;

/** The way on the plane from a press to a pointer, px, whatever was zoomed or panned meanwhile; null without a view. */
export function wayOnPlane(tool: ToolContext, start: PointerFacts): ((at: Point) => Point) | null {
  const before = tool.view();
  if (!before) return null;
  const from = screenToPlane(before, start.at);
  return (at) => {
    const to = screenToPlane(tool.view() ?? before, at);
    return [to[0] - from[0], to[1] - from[1]];
  };
}
