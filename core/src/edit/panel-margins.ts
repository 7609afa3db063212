import type { Panel } from '../correction/schema';
import { type PanelBox, withMargins } from '../crop/panel-crop';
import type { Rect } from '../picture/point';

/** A side of a panel. */
export type PanelSide = 'top' | 'right' | 'bottom' | 'left';

/** Smallest margin-box side that a drag leaves, plane px. */
const SMALLEST_PX = 4;

/**
 * A panel's margins after one side of their box was dragged by a way on the plane (x right, y down, px): outwards positive; kept in the
 * margin's own unit, and never across the other side.
 */
export function draggedMargin(box: PanelBox, margins: Panel['margins'], side: PanelSide, byPx: number): Panel['margins'] {
  const step = box.pxPerStep[side === 'left' || side === 'right' ? 0 : 1];
  const outward = side === 'left' || side === 'top' ? -byPx : byPx;
  const rect = withMargins(box, margins);
  const room = (side === 'left' || side === 'right' ? rect.width : rect.height) - SMALLEST_PX;
  return { ...margins, [side]: margins[side] + Math.max(-room, outward) / step };
}

/** The middles of the margin box's sides, plane px: where they are taken hold of. */
export const marginHandles = ({
  x,
  y,
  width,
  height,
}: Rect): readonly { readonly side: PanelSide; readonly at: readonly [number, number] }[] => [
  { side: 'top', at: [x + width / 2, y] },
  { side: 'right', at: [x + width, y + height / 2] },
  { side: 'bottom', at: [x + width / 2, y + height] },
  { side: 'left', at: [x, y + height / 2] },
];
