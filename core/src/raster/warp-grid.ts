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
/** The same for drafts on the stage, where it is not seen. */
export const DRAFT_GRID_LIMIT_PX = 0.03;
/**
 * The error is told by second differences of the nodes, which for maps as smooth as these is their curvature; where an edge easing begins
 * inside the last cell they see a third of it. So much is allowed of the limit, what is told across and down being added up.
 */
const ESTIMATED_SHARE = 0.4;
const COARSEST = 16;

/**
 * The coarsest grid for a tile of the output whose positions are nowhere off by more than a limit, px.
 *
 * @param map output -> source
 * @param x0 first column of the tile; @param y0 first row; px of the output
 * @returns null where a node has no image
 */
export function warpGrid(map: PositionMap, x0: number, y0: number, width: number, height: number, limit = GRID_LIMIT_PX): WarpGrid | null {
  const coarse = gridOf(map, x0, y0, width, height, COARSEST);
  if (!coarse) return null;
  let step = COARSEST;
  // bilinear errors fall with the square of the step
  for (let off = curvature(map, coarse, x0, y0) / 8; step > 1 && off > limit * ESTIMATED_SHARE; off /= 4) step /= 2;
  return step === COARSEST ? coarse : gridOf(map, x0, y0, width, height, step);
}

function gridOf(map: PositionMap, x0: number, y0: number, width: number, height: number, step: number): WarpGrid | null {
  const p = new Float64Array(2);
  const [columns, rows] = [Math.ceil(width / step) + 1, Math.ceil(height / step) + 1];
  const nodes = new Float64Array(columns * rows * 2);
  for (let j = 0, k = 0; j < rows; j += 1) {
    for (let i = 0; i < columns; i += 1, k += 2) {
      if (!map(x0 + i * step + 0.5, y0 + j * step + 0.5, p)) return null;
      nodes[k] = p[0] as number;
      nodes[k + 1] = p[1] as number;
    }
  }
  return { step, columns, rows, nodes };
}

/** Greatest second difference across plus greatest down, px for one step: from the nodes, or beside a grid too small to have three in a row. */
function curvature(map: PositionMap, grid: WarpGrid, x0: number, y0: number): number {
  const { step, columns, rows, nodes } = grid;
  if (columns < 3 || rows < 3) {
    const around = gridOf(map, x0 - step, y0 - step, Math.max(2, columns + 1) * step, Math.max(2, rows + 1) * step, step);
    // at the rim of what has an image: finest
    return around ? curvature(map, around, x0 - step, y0 - step) : Infinity;
  }
  let [across, down] = [0, 0];
  const row = 2 * columns;
  for (let j = 0; j < rows; j += 1) {
    for (let i = 0; i < columns; i += 1) {
      const k = j * row + 2 * i;
      for (let c = k; c < k + 2; c += 1) {
        const here = 2 * (nodes[c] as number);
        if (i > 0 && i + 1 < columns) across = Math.max(across, Math.abs((nodes[c - 2] as number) - here + (nodes[c + 2] as number)));
        if (j > 0 && j + 1 < rows) down = Math.max(down, Math.abs((nodes[c - row] as number) - here + (nodes[c + row] as number)));
      }
    }
  }
  return across + down;
}
