import type { Size } from '../picture/point';
import type { PositionMap } from './position-map';

/** Exact positions at nodes a step apart; between them positions are bilinear, or bent. */
export interface WarpGrid {
  /** Pixels from node to node. */
  readonly step: number;
  /** Nodes a row and rows of nodes: the last ones lie on or beyond the tile's far edges. */
  readonly columns: number;
  readonly rows: number;
  /** x, y of each node in source px, row by row; node (0, 0) belongs to the centre of the tile's first pixel. */
  readonly nodes: Float64Array;
  /** The step at which positions may be bilinear; where it is smaller than the grid's, they follow second differences too ({@link bentAt}). */
  readonly straightStep: number;
  /** Whether some nodes have no image: these are not numbers. */
  readonly holes: boolean;
  /**
   * Columns between which the map's curvature jumps, px from the tile's left, where it is even on both sides: an edge easing begins or ends
   * there. Drawn by itself, that part alone needs its nodes close together.
   */
  readonly seam?: Seam;
}

export interface Seam {
  readonly from: number;
  readonly to: number;
}

/** Largest distance between an interpolated and the exact position, px: even on white noise within two 8-bit steps. */
export const GRID_LIMIT_PX = 0.008;
/** The same for pictures of 16 bits, whose steps are finer, and in linear light, where dark steps are. */
export const FINE_GRID_LIMIT_PX = 0.0015;
/** The same for drafts on the stage, where it is not seen. */
export const DRAFT_GRID_LIMIT_PX = 0.1;
/**
 * The error is told by second differences of the nodes, which for maps as smooth as these is their curvature; where an edge easing begins
 * inside the last cell they see a third of it, and change by as much, so that changes count twice. So much is allowed of the limit, what
 * is told across and down being added up.
 */
const ESTIMATED_SHARE = 0.8;
const COARSEST = 16;

/** What the nodes come to, source px; holes apart. */
export interface NodeBox {
  readonly left: number;
  readonly top: number;
  readonly right: number;
  readonly bottom: number;
}

export function boxOf({ nodes }: WarpGrid): NodeBox {
  let [left, top, right, bottom] = [Infinity, Infinity, -Infinity, -Infinity];
  for (let k = 0; k < nodes.length; k += 2) {
    const [x, y] = [nodes[k] as number, nodes[k + 1] as number];
    if (x < left) left = x;
    if (x > right) right = x;
    if (y < top) top = y;
    if (y > bottom) bottom = y;
  }
  return { left, top, right, bottom };
}

/** Whether a box lies on one side of a source, and farther from it than a pixel and so much. */
export function liesBeside({ left, top, right, bottom }: NodeBox, { width, height }: Size, offPx = 0): boolean {
  const far = 1 + offPx;
  return right < -far || bottom < -far || left > width + far || top > height + far;
}

/** So much of the limit may finer nodes be off that are interpolated from coarse ones instead of asking the map. */
const INTERPOLATED_SHARE = 0.1;

/**
 * The coarsest grid for a tile of the output whose positions are nowhere off by more than a limit, px. Finer nodes than the coarsest are
 * cubic between these where third differences say that this is as good as exact: maps bend, but bend evenly.
 *
 * @param map output -> source
 * @param x0 first column of the tile; @param y0 first row; px of the output
 * @param source a tile wholly beside it is told by the coarsest grid, however off that may be
 * @param whole whether whoever draws can follow second differences, and leave cells empty whose corners have no image
 * @returns null where a node has no image, or none has
 */
export function warpGrid(
  map: PositionMap,
  x0: number,
  y0: number,
  width: number,
  height: number,
  limit = GRID_LIMIT_PX,
  source?: Size,
  whole = false,
): WarpGrid | null {
  const coarse = gridOf(map, x0, y0, width, height, COARSEST, whole);
  if (!coarse) return null;
  const { second, third, thirds } = differences(map, coarse, x0, y0);
  const straightOff = (second + 2 * third) / 8;
  let step = COARSEST;
  // bilinear errors fall with the square of the step
  for (let off = straightOff; step > 1 && off > limit * ESTIMATED_SHARE; off /= 4) step /= 2;
  if (step === COARSEST || (source && liesBeside(boxOf(coarse), source, straightOff))) return coarse;
  const even = !coarse.holes && coarse.columns >= 4 && coarse.rows >= 4 && third * CUBIC_ERROR <= limit * INTERPOLATED_SHARE;
  if (whole && even && second <= MOST_BEND_PX) return { ...coarse, straightStep: step };
  if (even) return straightened(coarse, step, width, height);
  const seam = whole && !coarse.holes ? seamOf(thirds, (limit * INTERPOLATED_SHARE) / CUBIC_ERROR / 2, width) : null;
  return seam ? { ...coarse, seam } : gridOf(map, x0, y0, width, height, step, whole);
}

/** Where the third differences along rows, by the last node of theirs, are large: null where that is nowhere, or in more than a quarter of a tile. */
function seamOf(thirds: Float64Array, limit: number, width: number): Seam | null {
  const [first, last] = [thirds.findIndex((third) => third > limit), thirds.findLastIndex((third) => third > limit)];
  if (first < 0) return null;
  // what jumps between two nodes is seen from the next one on, and for two more
  const [a, b] = [first - 1, Math.max(first, last - 2)];
  const seam = { from: Math.max(0, a * COARSEST), to: Math.min(width, b * COARSEST) };
  return seam.to - seam.from > width / 4 ? null : seam;
}

/** Positions of a bent cell stay so near to its corners' (an eighth of this) that the kernel's window holds them. */
const MOST_BEND_PX = 4;

/** A grid whose positions are bilinear between the nodes: the same, or one with nodes closer together. */
export const straight = (grid: WarpGrid, width: number, height: number): WarpGrid =>
  grid.straightStep < grid.step ? straightened(grid, grid.straightStep, width, height) : grid;

/**
 * Where the pixel at column i, row j of a tile lies by a bent grid; source px. As the kernel does it, in plain steps: along a row of nodes
 * half of the mean second difference of a cell's two nodes times u (u - 1), linear from row to row, and down likewise.
 */
export function bentAt({ step, columns, rows, nodes }: WarpGrid, i: number, j: number): readonly [number, number] {
  const [ci, cj] = [Math.floor(i / step), Math.floor(j / step)];
  const [u, v] = [i / step - ci, j / step - cj];
  const node = (a: number, b: number, k: number): number => nodes[(b * columns + a) * 2 + k] as number;
  const inner = (at: number, count: number): number => Math.max(1, Math.min(count - 2, at));
  const across = (a: number, b: number, k: number): number => node(a - 1, b, k) - 2 * node(a, b, k) + node(a + 1, b, k);
  const down = (a: number, b: number, k: number): number => node(a, b - 1, k) - 2 * node(a, b, k) + node(a, b + 1, k);
  const [i0, i1, j0, j1] = [inner(ci, columns), inner(ci + 1, columns), inner(cj, rows), inner(cj + 1, rows)];
  return [0, 1].map((k) => {
    const [above, below] = [0, 1].map((r) => (across(i0, cj + r, k) + across(i1, cj + r, k)) / 2) as [number, number];
    const [left, right] = [0, 1].map((c) => (down(ci + c, j0, k) + down(ci + c, j1, k)) / 2) as [number, number];
    const upper = node(ci, cj, k) * (1 - u) + node(ci + 1, cj, k) * u;
    const lower = node(ci, cj + 1, k) * (1 - u) + node(ci + 1, cj + 1, k) * u;
    return (
      upper * (1 - v) + lower * v + ((u * (u - 1)) / 2) * (above * (1 - v) + below * v) + ((v * (v - 1)) / 2) * (left * (1 - u) + right * u)
    );
  }) as [number, number];
}

/** Largest error of a cubic through four nodes in a row, in the last interval, of the greatest third difference: 1 / 24 of a fourth. */
const CUBIC_ERROR = 1 / 12;

/** A coarse grid with nodes closer together, cubic between its own. */
function straightened(coarse: WarpGrid, step: number, width: number, height: number): WarpGrid {
  const [across, down] = [cubicPlaces(coarse.columns, step, width), cubicPlaces(coarse.rows, step, height)];
  const [columns, rows] = [across.length, down.length];
  const lines = new Float64Array(columns * coarse.rows * 2);
  for (let j = 0, k = 0; j < coarse.rows; j += 1)
    for (const { first, w0, w1, w2, w3 } of across)
      for (let at = (j * coarse.columns + first) * 2, c = 0; c < 2; c += 1, at += 1, k += 1)
        lines[k] =
          w0 * (coarse.nodes[at] as number) +
          w1 * (coarse.nodes[at + 2] as number) +
          w2 * (coarse.nodes[at + 4] as number) +
          w3 * (coarse.nodes[at + 6] as number);
  const nodes = new Float64Array(columns * rows * 2);
  const row = columns * 2;
  let k = 0;
  for (const { first, w0, w1, w2, w3 } of down)
    for (let at = first * row, end = at + row; at < end; at += 1, k += 1)
      nodes[k] =
        w0 * (lines[at] as number) +
        w1 * (lines[at + row] as number) +
        w2 * (lines[at + 2 * row] as number) +
        w3 * (lines[at + 3 * row] as number);
  return { step, columns, rows, nodes, straightStep: step, holes: false };
}

/** From which four coarse nodes in a row a finer one is made, and how much of each. */
interface CubicPlace {
  readonly first: number;
  readonly w0: number;
  readonly w1: number;
  readonly w2: number;
  readonly w3: number;
}

function cubicPlaces(coarse: number, step: number, length: number): CubicPlace[] {
  return Array.from({ length: Math.ceil(length / step) + 1 }, (_, i) => {
    const u = (i * step) / COARSEST;
    const first = Math.min(coarse - 4, Math.max(0, Math.floor(u) - 1));
    const t = u - first;
    // Lagrange's polynomials at 0, 1, 2, 3
    return {
      first,
      w0: ((t - 1) * (t - 2) * (t - 3)) / -6,
      w1: (t * (t - 2) * (t - 3)) / 2,
      w2: (t * (t - 1) * (t - 3)) / -2,
      w3: (t * (t - 1) * (t - 2)) / 6,
    };
  });
}

function gridOf(
  map: PositionMap,
  x0: number,
  y0: number,
  width: number,
  height: number,
  step: number,
  mayHaveHoles: boolean,
): WarpGrid | null {
  const p = new Float64Array(2);
  const [columns, rows] = [Math.ceil(width / step) + 1, Math.ceil(height / step) + 1];
  const nodes = new Float64Array(columns * rows * 2);
  let missing = 0;
  for (let j = 0, k = 0; j < rows; j += 1) {
    for (let i = 0; i < columns; i += 1, k += 2) {
      if (!map(x0 + i * step + 0.5, y0 + j * step + 0.5, p)) {
        if (!mayHaveHoles) return null;
        missing += 1;
        p.fill(NaN);
      }
      nodes[k] = p[0] as number;
      nodes[k + 1] = p[1] as number;
    }
  }
  return missing === columns * rows ? null : { step, columns, rows, nodes, straightStep: step, holes: missing > 0 };
}

interface Differences {
  readonly second: number;
  readonly third: number;
}

/** Those of a grid; `thirds` are the greatest third differences along rows that end with each column of nodes. */
interface GridDifferences extends Differences {
  readonly thirds: Float64Array;
}

const NO_THIRDS = new Float64Array(0);

/** Greatest second and third differences, across plus down, px: of the nodes, or of those round a grid too small to have four in a row. */
function differences(map: PositionMap, grid: WarpGrid, x0: number, y0: number): GridDifferences {
  const { step, columns, rows, nodes } = grid;
  if (columns < 4 || rows < 4) {
    const around = gridOf(map, x0 - step, y0 - step, Math.max(3, columns + 1) * step, Math.max(3, rows + 1) * step, step, false);
    // at the rim of what has an image: finest
    return {
      ...(around ? differences(map, around, x0 - step, y0 - step) : { second: Infinity, third: Infinity }),
      thirds: NO_THIRDS,
    };
  }
  const row = 2 * columns;
  const thirds = new Float64Array(columns);
  const [across, down] = [along(nodes, row, 2, columns, rows, thirds), along(nodes, 2, row, rows, columns)];
  return { second: across.second + down.second, third: across.third + down.third, thirds };
}

/** {@link differences} along `lines` lines of `count` nodes: from line to line, and from node to node, in numbers. */
function along(nodes: Float64Array, toLine: number, toNode: number, count: number, lines: number, thirds?: Float64Array): Differences {
  let [second, third] = [0, 0];
  let measured = false;
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
        // holes are not numbers, and pass by
        measured ||= !Number.isNaN(nextBend);
        if (Math.abs(nextBend) > second) second = Math.abs(nextBend);
        if (i > 2) {
          const jump = Math.abs(nextBend - bend);
          if (jump > third) third = jump;
          if (thirds && jump > (thirds[i] as number)) thirds[i] = jump;
        }
        value = nodes[k] as number;
        slope = nextSlope;
        bend = nextBend;
      }
    }
  }
  return { second: measured ? second : Infinity, third };
}
