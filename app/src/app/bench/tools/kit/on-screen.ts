import { openPath, planeToScreen, toPlane, type Point, type Rect, type View } from '@able-plumb/core';
import type { ToolContext } from '../tool-context';

/** A picture point on the screen, px; null without an image there. */
export function onScreen(tool: Pick<ToolContext, 'view' | 'warp'>, p: Point): Point | null {
  const [view, warp] = [tool.view(), tool.warp()];
  const at = warp && toPlane(warp, p);
  return view && at && planeToScreen(view, at);
}

/** A line between two picture points on the screen; null where one of them has no image. */
export function lineOnScreen(
  tool: Pick<ToolContext, 'view' | 'warp'>,
  p: Point,
  q: Point,
): { readonly a: Point; readonly b: Point } | null {
  const [a, b] = [onScreen(tool, p), onScreen(tool, q)];
  return a && b && { a, b };
}

/** A line right across the stage as an SVG path: upright for axis x. */
export const acrossStage = ({ stage }: View, axis: 'x' | 'y', at: number): string =>
  axis === 'x' ? `M${at} 0V${stage.height}` : `M0 ${at}H${stage.width}`;

export const linePath = ({ a, b }: { readonly a: Point; readonly b: Point }): string => openPath([a, b]);

export const rectPath = ({ x, y, width, height }: Rect): string => `M${x} ${y}h${width}v${height}h${-width}Z`;
