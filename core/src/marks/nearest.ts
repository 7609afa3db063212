import { type Point, distance } from '../picture/point';

/** The handle nearest to a pointer within `reach`; where two overlap the nearer wins, and `after` (the last pick) yields to the next. */
export function nearestHandle<T extends { readonly id: string; readonly at: Point }>(
  handles: readonly T[],
  pointer: Point,
  reach: number,
  after?: string,
): T | null {
  const near = handles
    .map((handle) => ({ handle, d: distance(handle.at, pointer) }))
    .filter(({ d }) => d <= reach)
    .sort((p, q) => p.d - q.d);
  if (near.length > 1 && near[0]?.handle.id === after) return near[1]?.handle ?? null;
  return near[0]?.handle ?? null;
}
