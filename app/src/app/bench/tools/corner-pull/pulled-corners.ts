import { cornersOnPlane, type Quad } from '@able-plumb/core';
import type { ToolContext } from '../tool-context';

/** The picture's corners on the plane while they can be pulled; null else. */
export function pulledCorners(tool: ToolContext): Quad | null {
  const [warp, document] = [tool.warp(), tool.document()];
  return warp && document && tool.inHand() === 'corner-pull' && !tool.showsOriginal() ? cornersOnPlane(warp, document) : null;
}
