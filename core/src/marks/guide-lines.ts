import type { Guide } from '../correction/schema';
import { type View, planeToScreen } from './view';
import type { Rect } from '../picture/point';

/** A line across the stage, screen px: a guide or a line of the grid. */
export interface StageLine {
  readonly id: string;
  readonly axis: 'x' | 'y';
  readonly at: number;
}

/** Guides as the stage draws them. */
export const guideLines = (view: View, guides: readonly Guide[]): StageLine[] =>
  guides.map(({ id, axis, at }) => ({ id, axis, at: planeToScreen(view, [at, at])[axis === 'x' ? 0 : 1] }));

/** Lines of a grid over a crop, spaced by a share of its width, square, from its middle outwards. */
export function gridLines(view: View, crop: Rect, spacingPercent: number): StageLine[] {
  const step = (crop.width * spacingPercent) / 100;
  const lines: StageLine[] = [];
  for (const axis of ['x', 'y'] as const) {
    const [from, length] = axis === 'x' ? [crop.x, crop.width] : [crop.y, crop.height];
    const middle = from + length / 2;
    const most = Math.floor(length / 2 / step);
    for (let k = -most; k <= most; k += 1) {
      const at = middle + k * step;
      lines.push({ id: `${axis}${k}`, axis, at: planeToScreen(view, [at, at])[axis === 'x' ? 0 : 1] });
    }
  }
  return lines;
}
