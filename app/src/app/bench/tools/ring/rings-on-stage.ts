import {
  boundsOf,
  closedPath,
  planeToScreen,
  RING_HANDLES,
  ringOutline,
  ringReadings,
  ringWords,
  screenRect,
  toPlane,
  type Point,
  type RingHandle,
} from '@able-plumb/core';
import { easeGround } from '../kit/ease-ground';
import type { ToolContext } from '../tool-context';

/** A shape ring as the stage draws it, screen px. */
export interface RingOnStage {
  readonly id: string;
  readonly path: string;
  /** While the ring is small on the stage its middle alone can be taken hold of, and is not drawn over it. */
  readonly handles: readonly { readonly handle: RingHandle; readonly at: Point }[];
  readonly small: boolean;
  /** Where its words stand, above it. */
  readonly tag: Point;
  readonly words: string;
}

/** A ring smaller than this on the stage is drawn without handles, px. */
const SMALL_RING_PX = 30;

export function ringsOnStage(tool: ToolContext): readonly RingOnStage[] {
  const ground = easeGround(tool);
  if (!ground) return [];
  const { view, shown } = ground;
  const readings = ringReadings(shown.correction, shown.warp);
  return shown.correction.ease.rings.flatMap((ring, i) => {
    const outline = ringOutline(ring).map((p) => toPlane(shown.warp, p));
    const handles = RING_HANDLES.flatMap((handle) => {
      const at = toPlane(shown.warp, ring[handle]);
      return at ? [{ handle, at: planeToScreen(view, at) }] : [];
    });
    if (!outline.every((p) => p !== null)) return [];
    const { x, y, width, height } = screenRect(view, boundsOf(outline));
    const small = Math.min(width, height) < SMALL_RING_PX;
    return [
      {
        id: ring.id,
        path: closedPath(view, outline),
        handles: small ? handles.slice(0, 1) : handles,
        small,
        tag: [x + width / 2, y] as const,
        words: `ring ${i + 1}: ${ringWords(readings[i]?.ratio ?? null)}`,
      },
    ];
  });
}
