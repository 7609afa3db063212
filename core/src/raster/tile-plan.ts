import type { FilterName } from '../correction/schema';
import { FILTERS } from './filters';
import { FEW_TAPS, MOST_WINDOW_PX, MOST_WINDOW_SIDE } from './kernel';
import { CELL, isFine, widened, widenedBetween, widening, widens, type ResampleRequest } from './resample';
import { boxOf, liesBeside, type WarpGrid } from './warp-grid';

/** A tile's window of the source and the kernels of its cells. */
export interface Plan {
  /** First source pixel of the window and its size, px; may reach beyond the source, whose border is repeated there. */
  readonly left: number;
  readonly top: number;
  readonly width: number;
  readonly height: number;
  /** For each cell of 16 px, row by row: by how much the filter is widened across and down, and half the taps. */
  readonly cells: readonly CellKernel[];
  readonly mostTaps: number;
}

export interface CellKernel {
  readonly wideX: number;
  readonly wideY: number;
  readonly reachX: number;
  readonly reachY: number;
}

/** The kernels of a tile's cells, their widening taken from the grid's nodes at the cells' corners. */
function cellKernels(request: ResampleRequest, grid: WarpGrid, x0: number, y0: number, columns: number, rows: number): CellKernel[] {
  const { map, filter } = request;
  const exact = isFine(request);
  const { columns: nodeColumns, rows: nodeRows, nodes } = grid;
  const cells: CellKernel[] = [];
  const wide = new Float64Array(2);
  const apart = CELL / grid.step;
  let last: CellKernel | null = null;
  for (let j = 0; j * CELL < rows; j += 1) {
    for (let i = 0; i * CELL < columns; i += 1) {
      if ((i + 1) * apart < nodeColumns && (j + 1) * apart < nodeRows) {
        const a = (j * apart * nodeColumns + i * apart) * 2;
        const b = a + 2 * apart;
        const c = a + 2 * apart * nodeColumns;
        const d = c + 2 * apart;
        for (let k = 0; k < 2; k += 1)
          wide[k] = widenedBetween(nodes[a + k] as number, nodes[b + k] as number, nodes[c + k] as number, nodes[d + k] as number, CELL);
      } else widening(map, x0 + i * CELL, y0 + j * CELL, wide);
      // neighbours mostly have the same kernel
      if (last?.wideX !== wide[0] || last?.wideY !== wide[1]) last = kernelOf(filter, wide[0] as number, wide[1] as number, exact);
      cells.push(last as CellKernel);
    }
  }
  return cells;
}

function kernelOf(filter: FilterName, wideX: number, wideY: number, exact: boolean): CellKernel {
  const [reachX, reachY] = [reachOf(filter, wideX, exact), reachOf(filter, wideY, exact)];
  // up to eight taps the kernel is quicker when it has as many across as down
  const both = Math.max(reachX, reachY) <= FEW_TAPS / 2 ? Math.max(reachX, reachY) : 0;
  return { wideX, wideY, reachX: both || reachX, reachY: both || reachY };
}

/** Weights no greater than this at the rim of a widened filter are left out of 8 bits as stored when that saves taps: less than a step at worst. */
const LOST_WEIGHT = 0.004;
const reaches = new Map<string, number>();

/** Half the taps of a filter widened by a factor. */
function reachOf(filter: FilterName, wide: number, exact: boolean): number {
  const key = `${filter} ${wide} ${exact}`;
  const known = reaches.get(key);
  if (known !== undefined) return known;
  const { radius, weight } = FILTERS[filter];
  const whole = Math.ceil(radius * wide);
  const inner = (whole - 1) / wide;
  const lost = Array.from({ length: 17 }, (_, k) => Math.abs(weight(inner + ((radius - inner) * k) / 16)));
  const reach = !exact && wide > 1 && Math.max(...lost) <= LOST_WEIGHT ? whole - 1 : whole;
  reaches.set(key, reach);
  return reach;
}

/** Whether no kernel of a tile is widened: from no node to the next does it go farther than pixels lie apart. */
function isNarrow({ nodes, columns, step }: WarpGrid): boolean {
  let [acrossX, acrossY, downX, downY] = [0, 0, 0, 0];
  const row = 2 * columns;
  for (let first = 0; first < nodes.length; first += row) {
    for (let k = first; k < first + row; k += 2) {
      const [x, y] = [nodes[k] as number, nodes[k + 1] as number];
      if (k > first) {
        acrossX = larger(acrossX, x - (nodes[k - 2] as number));
        acrossY = larger(acrossY, y - (nodes[k - 1] as number));
      }
      if (first > 0) {
        downX = larger(downX, x - (nodes[k - row] as number));
        downY = larger(downY, y - (nodes[k - row + 1] as number));
      }
    }
    // mostly told by the first row
    if (widened(acrossX / step, downX / step) > 1 || widened(acrossY / step, downY / step) > 1) return false;
  }
  return true;
}

/** The larger size; of holes nothing is known. */
const larger = (size: number, difference: number): number => (Math.abs(difference) > size ? Math.abs(difference) : size);

/**
 * @param box the positions that the window has to hold
 * @returns null when the window is larger than its memory or the kernel's positions; 'beside' for a tile wholly beside the source, its
 *   positions being monotone between the nodes to far less than a pixel
 */
export function planTile(
  request: ResampleRequest,
  grid: WarpGrid,
  x0: number,
  y0: number,
  columns: number,
  rows: number,
  box = boxOf(grid),
): Plan | null | 'beside' {
  const { source } = request;
  if (liesBeside(box, source)) return 'beside';
  const { left, top, right, bottom } = box;
  const cells =
    !widens(request) || isNarrow(grid) ? sameKernels(request, columns, rows) : cellKernels(request, grid, x0, y0, columns, rows);
  let [tapsX, tapsY] = [0, 0];
  for (const { reachX, reachY } of cells) {
    tapsX = Math.max(tapsX, 2 * reachX);
    tapsY = Math.max(tapsY, 2 * reachY);
  }
  const range = (low: number, high: number, taps: number, length: number): readonly [number, number] => [
    Math.max(-taps, Math.floor(low - 0.5) - taps / 2),
    Math.min(length + taps, Math.floor(high - 0.5) + taps / 2 + 2),
  ];
  const [fromX, toX] = range(left, right, tapsX, source.width);
  const [fromY, toY] = range(top, bottom, tapsY, source.height);
  const [width, height] = [toX - fromX, toY - fromY];
  const farthest = Math.max(right - fromX, fromX - left, bottom - fromY, fromY - top);
  return width * height > MOST_WINDOW_PX || farthest > MOST_WINDOW_SIDE
    ? null
    : { left: fromX, top: fromY, width, height, cells, mostTaps: Math.max(tapsX, tapsY) };
}

/** Where nothing is widened. */
const sameKernels = (request: ResampleRequest, columns: number, rows: number): CellKernel[] =>
  Array<CellKernel>(Math.ceil(columns / CELL) * Math.ceil(rows / CELL)).fill(kernelOf(request.filter, 1, 1, isFine(request)));
