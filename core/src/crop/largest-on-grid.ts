import { boundsOf } from '../picture/polygon';
import type { Point, Rect } from '../picture/point';

/** Cells a side of the grid, and of the one for what is looked at while it moves: a seventh of the time. */
const CELLS = 128;
const NEAR_CELLS = 48;

/**
 * Largest rectangle of grid cells that no segment of a closed polygon touches, by the histogram stack; with `ratio` the largest square of
 * cells that have these proportions. Where a finer search begins.
 *
 * @returns null when the polygon is thinner than a cell
 */
export function largestOnGrid(outline: readonly Point[], ratio: number | undefined, near = false): Rect | null {
  const count = near ? NEAR_CELLS : CELLS;
  const bounds = boundsOf(outline);
  let [cw, ch] = [bounds.width / count, bounds.height / count];
  if (ratio) {
    ch = Math.max(bounds.width / ratio, bounds.height) / count;
    cw = ch * ratio;
  }
  if (!(cw > 0) || !(ch > 0)) return null;
  const inside = markCells(outline, bounds, cw, ch, count);
  const best = ratio ? largestSquare(inside, count) : largestOfCells(inside, count);
  if (!best) return null;
  const [i, j, w, h] = best;
  return { x: bounds.x + i * cw, y: bounds.y + j * ch, width: w * cw, height: h * ch };
}

function markCells(outline: readonly Point[], bounds: Rect, cw: number, ch: number, count: number): Uint8Array {
  const cells = new Uint8Array(count * count);
  const touched = new Uint8Array(count * count);
  /** Where the outline crosses the middle of each row, in cells. */
  const rows = Array.from({ length: count }, (): number[] => []);
  const clampCell = (v: number): number => Math.min(count - 1, Math.max(0, Math.floor(v)));
  outline.forEach((a, k) => {
    const b = outline[(k + 1) % outline.length] as Point;
    const [ax, ay, bx, by] = [(a[0] - bounds.x) / cw, (a[1] - bounds.y) / ch, (b[0] - bounds.x) / cw, (b[1] - bounds.y) / ch];
    const [low, high] = [Math.min(ay, by), Math.max(ay, by)];
    for (let j = Math.max(0, Math.ceil(low - 0.5)); j < count && j + 0.5 < high; j += 1)
      rows[j]?.push(ax + ((j + 0.5 - ay) / (by - ay)) * (bx - ax));
    const [j0, j1] = [clampCell(low - 1e-9), clampCell(high + 1e-9)];
    for (let j = j0; j <= j1; j += 1) {
      const x0 = xAt(ax, ay, bx, by, j);
      const x1 = xAt(ax, ay, bx, by, j + 1);
      const [i0, i1] = [clampCell(Math.min(x0, x1) - 1e-9), clampCell(Math.max(x0, x1) + 1e-9)];
      for (let i = i0; i <= i1; i += 1) touched[j * count + i] = 1;
    }
  });
  for (let j = 0; j < count; j += 1) {
    const crossings = rows[j] as number[];
    crossings.sort((p, q) => p - q);
    for (let k = 0; k + 1 < crossings.length; k += 2) {
      const from = Math.max(0, Math.ceil((crossings[k] as number) - 0.5));
      const to = Math.min(count - 1, Math.floor((crossings[k + 1] as number) - 0.5));
      for (let i = from; i <= to; i += 1) if (!touched[j * count + i]) cells[j * count + i] = 1;
    }
  }
  return cells;
}

/** x of a segment at row boundary `y`, clamped to the segment. */
function xAt(ax: number, ay: number, bx: number, by: number, y: number): number {
  if (ay === by) return y <= ay ? ax : bx;
  const t = Math.min(1, Math.max(0, (y - ay) / (by - ay)));
  return ax + t * (bx - ax);
}

function largestSquare(cells: Uint8Array, count: number): readonly [number, number, number, number] | null {
  const side = new Uint16Array(count * count);
  let [best, bi, bj] = [0, 0, 0];
  for (let j = 0; j < count; j += 1) {
    for (let i = 0; i < count; i += 1) {
      const k = j * count + i;
      if (!cells[k]) continue;
      const around = i > 0 && j > 0 ? Math.min(side[k - 1] as number, side[k - count] as number, side[k - count - 1] as number) : 0;
      side[k] = around + 1;
      if (around + 1 > best) [best, bi, bj] = [around + 1, i, j];
    }
  }
  return best > 0 ? [bi - best + 1, bj - best + 1, best, best] : null;
}

function largestOfCells(cells: Uint8Array, count: number): readonly [number, number, number, number] | null {
  const heights = new Uint16Array(count + 1);
  let best: readonly [number, number, number, number] | null = null;
  let bestArea = 0;
  for (let j = 0; j < count; j += 1) {
    for (let i = 0; i < count; i += 1) heights[i] = cells[j * count + i] ? (heights[i] as number) + 1 : 0;
    const stack: number[] = [];
    for (let i = 0; i <= count; i += 1) {
      while (stack.length > 0 && (heights[stack[stack.length - 1] as number] as number) >= (heights[i] as number)) {
        const h = heights[stack.pop() as number] as number;
        const left = stack.length > 0 ? (stack[stack.length - 1] as number) + 1 : 0;
        if (h * (i - left) > bestArea) {
          bestArea = h * (i - left);
          best = [left, j - h + 1, i - left, h];
        }
      }
      stack.push(i);
    }
  }
  return best;
}
