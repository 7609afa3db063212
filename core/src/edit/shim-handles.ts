import type { Correction, Shim } from '../correction/schema';
import type { Point } from '../picture/point';
import { rectCorners } from '../picture/point';
import { crossingAt, shimOf, withPlacesMoved, withShimCorner, type MovedPlaces } from './shims';
import type { ShimOnPlane } from './shims-on-plane';

/**
 * What of a shim can be taken hold of: a crossing, a whole column or row of them, a corner of its box; and
 * what is held beside the crossings since the net was another. */
export type ShimHandle =
  | { readonly of: 'crossing'; readonly column: number; readonly row: number }
  | { readonly of: 'column' | 'row' | 'corner'; readonly index: number }
  | { readonly of: 'hold'; readonly id: string };

export const sameHandle = (a: ShimHandle, b: ShimHandle): boolean => JSON.stringify(a) === JSON.stringify(b);

/** The handles of a shim and where they are seen, plane px: crossings, columns above the box and rows left of it, corners. */
export function shimHandles({ shim, box, crossings, strays }: ShimOnPlane): readonly { readonly handle: ShimHandle; readonly at: Point }[] {
  const all = Array.from({ length: shim.crossings }, (_, index) => index);
  const [cx, cy] = [box.x + box.width / 2, box.y + box.height / 2];
  return [
    ...crossings.map(({ column, row, at }) => ({ handle: { of: 'crossing', column, row } as const, at })),
    ...strays.map(({ id, at }) => ({ handle: { of: 'hold', id } as const, at })),
    ...all.map((index) => ({ handle: { of: 'column', index } as const, at: [cx + crossingAt(shim, index, 0)[0], box.y] as const })),
    ...all.map((index) => ({ handle: { of: 'row', index } as const, at: [box.x, cy + crossingAt(shim, 0, index)[1]] as const })),
    ...rectCorners(box).map((at, index) => ({ handle: { of: 'corner', index } as const, at })),
  ];
}

/** The places of a net that a handle moves, px from the middle of the box; none for a corner. */
export function placesOf(shim: Shim, handle: ShimHandle): readonly Point[] {
  const all = Array.from({ length: shim.crossings }, (_, i) => i);
  switch (handle.of) {
    case 'crossing':
      return [crossingAt(shim, handle.column, handle.row)];
    case 'column':
      return all.map((row) => crossingAt(shim, handle.index, row));
    case 'row':
      return all.map((column) => crossingAt(shim, column, handle.index));
    case 'hold':
      return shim.holds.flatMap(({ id, from }) => (id === handle.id ? [from] : []));
    case 'corner':
      return [];
  }
}

/**
 * The document after a handle of a shim was moved by a way on the plane, px, as far as nothing folds. A column only moves across, a row only
 * up and down.
 *
 * @throws PlumbError where a box would leave the picture
 */
export function withShimHandleMoved(correction: Correction, id: string, handle: ShimHandle, by: Point): MovedPlaces {
  const shim = shimOf(correction, id);
  if (!shim) return { correction, stopped: false };
  if (handle.of === 'corner') return { correction: withShimCorner(correction, id, handle.index as 0 | 1 | 2 | 3, by), stopped: false };
  const way: Point = handle.of === 'column' ? [by[0], 0] : handle.of === 'row' ? [0, by[1]] : by;
  return withPlacesMoved(correction, id, placesOf(shim, handle), way);
}
