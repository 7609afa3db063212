import type { Correction } from '../correction/schema';
import type { Point } from '../picture/point';

/** The document with one measuring line more, ends in picture px. */
export function withMeasure(correction: Correction, a: Point, b: Point, placedPx?: number): Correction {
  const largest = correction.measures.reduce((most, m) => Math.max(most, Number(/^m(\d+)$/.exec(m.id)?.[1] ?? 0)), 0);
  return {
    ...correction,
    measures: [
      ...correction.measures,
      { id: `m${largest + 1}`, a: [a[0], a[1]], b: [b[0], b[1]], ...(placedPx === undefined ? {} : { placedPx }) },
    ],
  };
}
