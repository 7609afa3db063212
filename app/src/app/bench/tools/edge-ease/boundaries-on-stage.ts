import { edgeEasesOnPlane, planeToScreen, type Point } from '@able-plumb/core';
import { easeGround } from '../kit/ease-ground';
import type { ToolContext } from '../tool-context';

/** An edge easing as the stage draws it, screen px. */
export interface BoundaryOnStage {
  readonly id: string;
  readonly axis: 'x' | 'y';
  readonly at: number;
  readonly grip: Point;
  /** A path from the boundary to where all is narrowed in full; and one along the stretch that gives the room. */
  readonly reach: string;
  readonly room: string | null;
  readonly words: string;
}

/** Half the tick that ends the stretches of an edge easing, px. */
const TICK_PX = 9;

export function boundariesOnStage(tool: ToolContext): readonly BoundaryOnStage[] {
  const ground = easeGround(tool);
  if (!ground) return [];
  const { view, shown } = ground;
  return edgeEasesOnPlane(shown.correction, shown.warp).map(({ edge, k, boundary, full, room, at }) => {
    const onScreen = (value: number): number => planeToScreen(view, [value, value])[k];
    const grip = planeToScreen(view, at);
    const across = grip[k === 0 ? 1 : 0];
    // a line along the axis, ended by a tick
    const stretch = (to: number): string => {
      const [p, q] = [onScreen(boundary), onScreen(to)];
      return k === 0
        ? `M${p} ${across}H${q}M${q} ${across - TICK_PX}V${across + TICK_PX}`
        : `M${across} ${p}V${q}M${across - TICK_PX} ${q}H${across + TICK_PX}`;
    };
    return {
      id: edge.id,
      axis: k === 0 ? ('x' as const) : ('y' as const),
      at: onScreen(boundary),
      grip,
      reach: stretch(full),
      room: room === null ? null : stretch(room),
      words: `${(edge.amount * 100).toFixed(0)} % ${k === 0 ? 'narrower' : 'lower'}`,
    };
  });
}
