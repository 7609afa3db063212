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
 * inside the last cell they see a third of it, and change by as much, so that changes count twice. So much is allowed of the limit, what
 * is told across and down being added up.
 */
const ESTIMATED_SHARE = 0.8;
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

/**
 * Greatest second difference and twice the greatest change of one, across plus down, px for one step: from the nodes, or beside a grid too
 * small to have four in a row.
 */
function curvature(map: PositionMap, grid: WarpGrid, x0: number, y0: number): number {
  const { step, columns, rows, nodes } = grid;
  if (columns < 4 || rows < 4) {
    const around = gridOf(map, x0 - step, y0 - step, Math.max(3, columns + 1) * step, Math.max(3, rows + 1) * step, step);
    // at the rim of what has an image: finest
    return around ? curvature(map, around, x0 - step, y0 - step) : Infinity;
  }
  const row = 2 * columns;
  return along(nodes, row, 2, columns, rows) + along(nodes, 2, row, rows, columns);
}

/** {@link curvature} along `lines` lines of `count` nodes: from line to line, and from node to node, in numbers. */
function along(nodes: Float64Array, toLine: number, toNode: number, count: number, lines: number): number {
  let [second, third] = [0, 0];
  for (let line = 0; line < lines; line += 1) {
    for (let c = 0; c < 2; c += 1) {
      let k = line * toLine + c;
      let value = nodes[k + toNode] as number;
      let slope = value - (nodes[k] as number);
      let bend = NaN;
      for (let i = 2; i < count; i += 1) {
        k = line * toLine + c + i * toNode;
        const nextSlope = (nodes[k] as number) - value;
        const nextBend = nextSlope - slope;
        second = Math.max(second, Math.abs(nextBend));
        if (i > 2) third = Math.max(third, Math.abs(nextBend - bend));
        value = nodes[k] as number;
        slope = nextSlope;
        bend = nextBend;
      }
    }
  }
  return second + 2 * third;
}
