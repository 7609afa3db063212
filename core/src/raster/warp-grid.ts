import type { PositionMap } from './resample';

/** Exact positions at nodes a step apart; between them positions are bilinear. */
export interface WarpGrid {
  /** Pixels from node to node. */
  readonly step: number;
  /** Nodes a row and rows of nodes: the last ones lie on or beyond the tile's far edges. */
  readonly columns: number;
  readonly rows: number;
  /** x, y of each node in source px, row by row; node (0, 0) belongs to the centre of the tile's first pixel. */
  readonly nodes: Float64Array;
}

/** Largest distance between an interpolated and the exact position, px: even on white noise within two 8-bit steps. */
export const GRID_LIMIT_PX = 0.008;
/**
 * The error is sampled at a cell's centre and the middles of two of its edges, which comes within a few hundredths of its maximum for maps
 * as smooth as these; this much is kept in hand.
 */
const SAMPLED_SHARE = 0.9;
const STEPS = [16, 8, 4, 2, 1] as const;

/**
 * The coarsest grid for a tile of the output whose positions are nowhere off by more than {@link GRID_LIMIT_PX}.
 *
 * @param map output -> source
 * @param x0 first column of the tile; @param y0 first row; px of the output
 * @returns null where a node has no image
 */
export function warpGrid(map: PositionMap, x0: number, y0: number, width: number, height: number): WarpGrid | null {
  const p = new Float64Array(2);
  for (const step of STEPS) {
    const [columns, rows] = [Math.ceil(width / step) + 1, Math.ceil(height / step) + 1];
    const nodes = new Float64Array(columns * rows * 2);
    for (let j = 0, k = 0; j < rows; j += 1) {
      for (let i = 0; i < columns; i += 1, k += 2) {
        if (!map(x0 + i * step + 0.5, y0 + j * step + 0.5, p)) return null;
        nodes[k] = p[0] as number;
        nodes[k + 1] = p[1] as number;
      }
    }
    const grid = { step, columns, rows, nodes };
    if (step === 1) return grid;
    const off = largestError(map, x0, y0, grid, p);
    if (off === null) return null;
    if (off <= GRID_LIMIT_PX * SAMPLED_SHARE) return grid;
  }
  return null;
}

/** Largest error at the centres of the cells and the middles of their upper and left edges, px; null where the map has no image. */
function largestError(map: PositionMap, x0: number, y0: number, { step, columns, rows, nodes }: WarpGrid, p: Float64Array): number | null {
  let most = 0;
  const off = (i: number, j: number, x: number, y: number): boolean => {
    if (!map(x0 + i * step + 0.5, y0 + j * step + 0.5, p)) return false;
    most = Math.max(most, Math.abs((p[0] as number) - x), Math.abs((p[1] as number) - y));
    return true;
  };
  for (let j = 0; j + 1 < rows; j += 1) {
    for (let i = 0; i + 1 < columns; i += 1) {
      const a = (j * columns + i) * 2;
      const [b, c] = [a + 2, a + 2 * columns];
      const d = c + 2;
      const [ax, ay, bx, by] = [nodes[a], nodes[a + 1], nodes[b], nodes[b + 1]] as [number, number, number, number];
      const [cx, cy, dx, dy] = [nodes[c], nodes[c + 1], nodes[d], nodes[d + 1]] as [number, number, number, number];
      if (!off(i + 0.5, j + 0.5, (ax + bx + cx + dx) / 4, (ay + by + cy + dy) / 4)) return null;
      if (!off(i + 0.5, j, (ax + bx) / 2, (ay + by) / 2)) return null;
      if (!off(i, j + 0.5, (ax + cx) / 2, (ay + cy) / 2)) return null;
    }
  }
  return most;
}
