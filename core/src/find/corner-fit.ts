import { distance, type Point } from '../picture/point';
import type { Raster } from '../raster/raster';
import { crossingOf } from '../stance/corners-of-edges';
import { fitEdges, LEAST_SHARE, type EdgeFit } from './edge-fit';

/** Share of a side left out at each end: corners are rounded, screwed on, chipped. */
const INSET = 0.06;

/**
 * Corners of something four-sided, settled on the real ones: each side is fitted to the edge that runs along it, and a corner lies where
 * two sides cross. Along a whole side there is far more to measure than in the few pixels about a corner, and what else meets there
 * (mortar, screws, shadows) does not count.
 *
 * @param levels the original first, then each half the size of the one before
 * @param corners four in any order, picture px
 * @param which the corners that may move, by index; the others stay
 * @param reachPx how far the edges may lie from the lines between the corners, picture px
 * @returns in the order given; a corner with one real side moves onto it, one without any stays
 */
export function settleCorners(levels: readonly Raster[], corners: readonly Point[], which: readonly number[], reachPx: number): Point[] {
  const [cx, cy] = [0, 1].map((k) => corners.reduce((sum, p) => sum + (p[k] as number), 0) / corners.length) as [number, number];
  const angle = (i: number): number => Math.atan2((corners[i] as Point)[1] - cy, (corners[i] as Point)[0] - cx);
  const round = corners.map((_, i) => i).sort((i, j) => angle(i) - angle(j));
  const sides = new Map<number, EdgeFit | null>();
  const sideFrom = (k: number): EdgeFit | null => {
    const known = sides.get(k);
    if (known !== undefined) return known;
    const [a, b] = [corners[round[k] as number] as Point, corners[round[(k + 1) % round.length] as number] as Point];
    const at = (t: number): Point => [a[0] + (b[0] - a[0]) * t, a[1] + (b[1] - a[1]) * t];
    const fit = fitEdges(levels, at(INSET), at(1 - INSET), reachPx).find(({ share }) => share >= LEAST_SHARE) ?? null;
    sides.set(k, fit);
    return fit;
  };
  return corners.map((corner, i) => {
    if (!which.includes(i)) return corner;
    const k = round.indexOf(i);
    const [before, after] = [sideFrom((k + round.length - 1) % round.length), sideFrom(k)];
    const settled = before && after ? crossingOf([before.a, before.b], [after.a, after.b]) : onto(corner, before ?? after);
    return settled && distance(settled, corner) <= 1.5 * reachPx ? settled : corner;
  });
}

/** The foot of a corner on its one real side. */
function onto([x, y]: Point, side: EdgeFit | null): Point | null {
  if (!side) return null;
  const [dx, dy] = [side.b[0] - side.a[0], side.b[1] - side.a[1]];
  const t = ((x - side.a[0]) * dx + (y - side.a[1]) * dy) / (dx * dx + dy * dy);
  return [side.a[0] + dx * t, side.a[1] + dy * t];
}
