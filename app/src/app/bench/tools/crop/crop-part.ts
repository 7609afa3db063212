import { cropHandles, distance, nearestHandle, planeToScreen, screenToPlane, type CropPart, type Rect, type View } from '@able-plumb/core';
import type { PointerFacts } from '../tool';
import type { ToolContext } from '../tool-context';

/** Beside a corner, out to this many screen px, the picture is turned. */
const TURN_REACH_PX = 56;

/** The crop while it is worked on; null at other steps, and while the original is shown. */
export function openCrop(tool: ToolContext): { readonly crop: Rect; readonly view: View } | null {
  const [view, shown] = [tool.view(), tool.shown()];
  return view && shown && tool.step() === 'crop' && !tool.showsOriginal() ? { crop: shown.warp.crop, view } : null;
}

/** What of a crop a pointer is on: a handle, which wins over the inside; beside a corner; or none of it. */
export function cropPartAt(view: View, crop: Rect, { at, reach }: PointerFacts): CropPart | 'beside' | null {
  const handles = cropHandles(crop).map((handle) => ({ id: handle.part, at: planeToScreen(view, handle.at) }));
  const near = nearestHandle(handles, at, reach);
  if (near) return near.id;
  const [x, y] = screenToPlane(view, at);
  if (x > crop.x && y > crop.y && x < crop.x + crop.width && y < crop.y + crop.height) return 'inside';
  return handles.some((corner) => corner.id.length === 2 && distance(corner.at, at) < TURN_REACH_PX) ? 'beside' : null;
}
