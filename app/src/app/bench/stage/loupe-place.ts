import type { Point, Size } from '@able-plumb/core';

/** Width and height of the loupe, px. */
export const LOUPE_PX = 168;
/** How far the loupe stands from a pointer, and from a finger, px. */
const OFF_PX = 34;
const ABOVE_FINGER_PX = 56;
const EDGE_PX = 4;

/** Where the loupe stands, px: beside the pointer, never under it, and inside the stage; above a finger, or beside it at the upper edge. */
export function loupePlace([x, y]: Point, stage: Size, byFinger: boolean): { readonly left: number; readonly top: number } {
  if (!byFinger) {
    const left = x + OFF_PX + LOUPE_PX < stage.width ? x + OFF_PX : x - OFF_PX - LOUPE_PX;
    const top = y + OFF_PX + LOUPE_PX < stage.height ? y + OFF_PX : y - OFF_PX - LOUPE_PX;
    return { left: Math.max(EDGE_PX, left), top: Math.max(EDGE_PX, top) };
  }
  const within = (left: number): number => Math.max(EDGE_PX, Math.min(stage.width - LOUPE_PX - EDGE_PX, left));
  const top = y - ABOVE_FINGER_PX - LOUPE_PX;
  if (top >= EDGE_PX) return { left: within(x - LOUPE_PX / 2), top };
  const left = x - ABOVE_FINGER_PX - LOUPE_PX;
  return { left: left >= EDGE_PX ? left : within(x + ABOVE_FINGER_PX), top: EDGE_PX };
}
