import type { Correction, Guide } from '../correction/schema';
import type { Rect } from '../picture/point';
import { planeToScreen, type View } from './view';

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

/** The document with a guide moved, or a new one; plane px. */
export function withGuide(correction: Correction, guide: Guide): Correction {
  const known = correction.guides.some((g) => g.id === guide.id);
  return { ...correction, guides: known ? correction.guides.map((g) => (g.id === guide.id ? guide : g)) : [...correction.guides, guide] };
}

/** The document without one guide, or without any. */
export const withoutGuides = (correction: Correction, id?: string): Correction => ({
  ...correction,
  guides: id === undefined ? [] : correction.guides.filter((g) => g.id !== id),
});

/** Next free guide id. */
export const nextGuideId = (guides: readonly Guide[]): string =>
  `g${guides.reduce((most, g) => Math.max(most, Number(/^g(\d+)$/.exec(g.id)?.[1] ?? 0)), 0) + 1}`;

/** Guides after clockwise quarter turns about the plane's origin. */
export const turnedGuides = (guides: readonly Guide[], turns: number): Guide[] =>
  guides.map((g) => {
    if (turns === 2) return { ...g, at: -g.at };
    const axis = g.axis === 'x' ? 'y' : 'x';
    const negated = (turns === 1) === (g.axis === 'y');
    return { ...g, axis, at: negated ? -g.at : g.at };
  });
