import type { Correction, FillArea } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { distance, distanceToSegment, type Point, type Size } from '../picture/point';
import { isInside } from '../picture/polygon';

/** Positions are exact at nodes so many cells apart, and linear between them. */
const APART = 8;

/**
 * Which cells of a result may be copied from: where areas say only from here or not from here, those that lie wholly so.
 *
 * @param size of the result, px
 * @param halvings cells have 2^halvings px a side
 * @returns 1 where a cell may be copied, row by row
 */
export function allowedCells(correction: Correction, warp: Warp, size: Size, halvings: number): Uint8Array {
  const side = 1 << halvings;
  const [columns, rows] = [Math.ceil(size.width / side), Math.ceil(size.height / side)];
  const cells = new Uint8Array(columns * rows).fill(1);
  const { areas } = correction.crop.fill;
  if (areas.length === 0) return cells;
  const only = areas.filter(({ kind }) => kind === 'only');
  const not = areas.filter(({ kind }) => kind === 'not');
  const node = new Float64Array(2);
  const exact = (column: number, row: number): Point | null =>
    warp.outputToPicture((column + 0.5) * side, (row + 0.5) * side, node) ? [node[0] as number, node[1] as number] : null;
  for (let j = 0; j < rows; j += APART)
    for (let i = 0; i < columns; i += APART) {
      const [p, q, r, s] = [exact(i, j), exact(i + APART, j), exact(i, j + APART), exact(i + APART, j + APART)];
      for (let y = j; y < Math.min(rows, j + APART); y += 1)
        for (let x = i; x < Math.min(columns, i + APART); x += 1) {
          const [u, v] = [(x - i) / APART, (y - j) / APART];
          const at = p && q && r && s ? mixed(p, q, r, s, u, v) : exact(x, y);
          // as far as a cell reaches in the picture, and what linear positions may be off
          const margin =
            p && q && r && s ? (1.5 * Math.max(distance(p, q), distance(p, r), distance(q, s), distance(r, s))) / APART + 1 : 4 * side;
          const may =
            at !== null && (only.length === 0 || only.some((a) => depthIn(a, at) > margin)) && !not.some((a) => depthIn(a, at) > -margin);
          if (!may) cells[y * columns + x] = 0;
        }
    }
  return cells;
}

const mixed = (p: Point, q: Point, r: Point, s: Point, u: number, v: number): Point =>
  [0, 1].map(
    (k) => ((p[k] as number) * (1 - u) + (q[k] as number) * u) * (1 - v) + ((r[k] as number) * (1 - u) + (s[k] as number) * u) * v,
  ) as unknown as Point;

/** How deep a picture point lies inside an area, px; negative outside. */
export function depthIn({ points, widthPx }: FillArea, [x, y]: Point): number {
  if (widthPx === undefined && points.length > 2) {
    const near = Math.min(...points.map((p, i) => distanceToSegment([x, y], p, points[(i + 1) % points.length] as Point)));
    return isInside(points, [x, y]) ? near : -near;
  }
  if (widthPx === undefined) {
    const [xs, ys] = [points.map((p) => p[0]), points.map((p) => p[1])];
    return Math.min(x - Math.min(...xs), Math.max(...xs) - x, y - Math.min(...ys), Math.max(...ys) - y);
  }
  let nearest = Infinity;
  for (let i = 1; i < points.length; i += 1)
    nearest = Math.min(nearest, distanceToSegment([x, y], points[i - 1] as Point, points[i] as Point));
  return widthPx / 2 - nearest;
}
