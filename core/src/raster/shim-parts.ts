import type { Rect } from '../picture/point';

/** A part of a result that is drawn by itself: pixels from left to right and from top to bottom, the last ones not among them. */
export interface Part {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

/** The pixels whose centres lie inside boxes, by box, of rows of a result; boxes that hold none are left out. */
export const shimParts = (boxes: readonly Rect[], width: number, fromRow: number, toRow: number): Part[] =>
  boxes.flatMap(({ x, y, width: across, height: down }) => {
    const part = {
      left: Math.max(0, Math.ceil(x - 0.5)),
      top: Math.max(fromRow, Math.ceil(y - 0.5)),
      right: Math.min(width, Math.ceil(x + across - 0.5)),
      bottom: Math.min(toRow, Math.ceil(y + down - 0.5)),
    };
    return part.right > part.left && part.bottom > part.top ? [part] : [];
  });
