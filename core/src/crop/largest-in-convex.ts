import { boundsOf } from '../picture/polygon';
import { distance, rectAround, type Point, type Rect } from '../picture/point';
import { CLEARANCE_PX, isClear, segmentsOf } from './inside-outline';
import { centred, containsAll, fixedConstraints, keptInside, step } from './refine-trim';

/** The largest rectangle of proportions `ratio` in a convex polygon, of several the one nearest to the plane's origin. */
export function insideConvex(outline: readonly Point[], ratio: number, contain: readonly Rect[]): Rect | null {
  const bounds = boundsOf(outline);
  const inner: Point = [0, 1].map((k) => outline.reduce((sum, p) => sum + (p[k] as number), 0) / outline.length) as unknown as Point;
  const half = [
    ...fixedConstraints(contain),
    ...segmentsOf(outline)
      .filter(([a, b]) => distance(a, b) > 1e-9)
      .map((segment) => keptInside(segment, inner)),
  ];
  const span = Math.max(bounds.width, bounds.height);
  const rect = step(rectAround(inner, ratio, 1), half, 2 * span, ratio, undefined);
  if (!rect) return null;
  const place = centred(outline, rect, rect.height / 2 - CLEARANCE_PX, half, ratio);
  return isClear(outline, place) && containsAll(place, contain) ? place : null;
}

export const GOLDEN = (Math.sqrt(5) - 1) / 2;

/** Proportions are found to this; the area is flat there. */
const FINEST_LOG_RATIO = 1e-3;

/**
 * The largest rectangle in a convex polygon: over its proportions the area has one maximum (the product of the sides is log-concave), found
 * by golden section.
 */
export function freeInConvex(outline: readonly Point[]): Rect | null {
  let best: Rect | null = null;
  const area = (logRatio: number): number => {
    const rect = insideConvex(outline, Math.exp(logRatio), []);
    if (rect && (!best || rect.width * rect.height > best.width * best.height)) best = rect;
    return rect ? rect.width * rect.height : 0;
  };
  let [low, high] = [-4, 4];
  let [p, q] = [high - GOLDEN * (high - low), low + GOLDEN * (high - low)];
  let [areaP, areaQ] = [area(p), area(q)];
  while (high - low > FINEST_LOG_RATIO) {
    if (areaP < areaQ) {
      [low, p, areaP] = [p, q, areaQ];
      q = low + GOLDEN * (high - low);
      areaQ = area(q);
    } else {
      [high, q, areaQ] = [q, p, areaP];
      p = high - GOLDEN * (high - low);
      areaP = area(p);
    }
  }
  return best;
}
