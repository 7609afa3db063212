import type { LensModel } from '../correction/schema';
import type { Point, Size } from '../picture/point';
import { turnPoint, type QuarterTurns } from '../picture/quarter-turns';

/**
 * A lens model seen in a picture that was turned, clockwise quarters after an optional left-right mirroring; `size` is the size before.
 * Only what has a direction changes: centre, focal lengths across and down, tangential terms.
 */
export function turnedModel<M extends LensModel>(model: M, size: Size, turns: QuarterTurns, mirrored = false): M {
  if (model.kind === 'none') return model;
  let next: LensModel = model;
  if (mirrored)
    next = next.kind === 'brown-conrady' ? { ...next, cx: size.width - next.cx, p2: -next.p2 } : { ...next, cx: size.width - model.cx };
  let [now, left] = [size, turns as number];
  for (; left > 0; left -= 1) {
    const [cx, cy] = turnPoint([next.cx, next.cy], now, 1) as Point;
    // x' = -y, y' = x on ray coordinates: the tangential terms change places and one its sign
    if (next.kind === 'brown-conrady') next = { ...next, fx: next.fy, fy: next.fx, cx, cy, p1: next.p2, p2: -next.p1 };
    else if (next.kind === 'fisheye') next = { ...next, fx: next.fy, fy: next.fx, cx, cy };
    else next = { ...next, cx, cy };
    now = { width: now.height, height: now.width };
  }
  return next as M;
}

/** Quarter turns and mirroring that the value of an orientation tag asks for (CIPA DC-008, tag 0x0112): mirrored first, then turned. */
export const turnsOfOrientation = (orientation: number): { readonly turns: QuarterTurns; readonly mirrored: boolean } => {
  const turns = ({ 1: 0, 2: 0, 3: 2, 4: 2, 5: 3, 6: 1, 7: 1, 8: 3 } as Readonly<Record<number, QuarterTurns>>)[orientation] ?? 0;
  return { turns, mirrored: orientation === 2 || orientation === 4 || orientation === 5 || orientation === 7 };
};
