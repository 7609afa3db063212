import type { Correction, Guide } from '../correction/schema';

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
