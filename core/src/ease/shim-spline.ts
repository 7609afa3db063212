/**
 * Displacements over a box as a uniform cubic B-spline: zero with their slopes and curvatures at the border, so that nothing shows where
 * the box ends. Controls lie on a square net, the outermost three rings of which are zero.
 */
export interface ShimSpline {
  /** Cells a side. */
  readonly cells: number;
  /** Size of a cell, px. */
  readonly stepX: number;
  readonly stepY: number;
  /** Displacements of the controls, (cells + 3) a row, from one cell before the border on; px. */
  readonly dx: Float64Array;
  readonly dy: Float64Array;
}

/** Cells a side of a net with so many free controls. */
export const cellsOf = (crossings: number): number => crossings + 3;

/** Where crossing `i` of a net lies along its box, as a share of the side. */
export const crossingShare = (i: number, crossings: number): number => (i + 2) / cellsOf(crossings);

/** Which controls shape a place along an axis, `first` of them on, and how much: four weights, four slopes (a cell). */
export interface Weights {
  first: number;
  readonly weights: Float64Array;
  readonly slopes: Float64Array;
}

export const newWeights = (): Weights => ({ first: 0, weights: new Float64Array(4), slopes: new Float64Array(4) });

/** Weights at a place, in cells from the border. Source: de Boor 1978, A practical guide to splines (uniform cubic case, from memory). */
export function weightsAt(at: number, cells: number, into: Weights): void {
  const cell = Math.min(cells - 1, Math.max(0, Math.floor(at)));
  const t = at - cell;
  const s = 1 - t;
  into.first = cell;
  const { weights, slopes } = into;
  weights[0] = (s * s * s) / 6;
  weights[1] = (3 * t * t * t - 6 * t * t + 4) / 6;
  weights[2] = (3 * s * s * s - 6 * s * s + 4) / 6;
  weights[3] = (t * t * t) / 6;
  slopes[0] = (-s * s) / 2;
  slopes[1] = (3 * t * t - 4 * t) / 2;
  slopes[2] = (-3 * s * s + 4 * s) / 2;
  slopes[3] = (t * t) / 2;
}

/** Displacement alone at a place of the box, px from its top left corner, into `out`: what drawing asks for again and again. */
export function shiftAt({ cells, stepX, stepY, dx, dy }: ShimSpline, x: number, y: number, out: Float64Array): void {
  const [u, v] = [x / stepX, y / stepY];
  const i = u >= cells ? cells - 1 : u | 0;
  const j = v >= cells ? cells - 1 : v | 0;
  const t = u - i;
  const s = 1 - t;
  const a0 = (s * s * s) / 6;
  const a1 = ((3 * t - 6) * t * t + 4) / 6;
  const a2 = ((3 * s - 6) * s * s + 4) / 6;
  const a3 = (t * t * t) / 6;
  const q = v - j;
  const p = 1 - q;
  const columns = cells + 3;
  let at = j * columns + i;
  let [sx, sy] = [0, 0];
  for (let k = 0; k < 4; k += 1, at += columns) {
    const w =
      k === 0 ? (p * p * p) / 6 : k === 1 ? ((3 * q - 6) * q * q + 4) / 6 : k === 2 ? ((3 * p - 6) * p * p + 4) / 6 : (q * q * q) / 6;
    sx += w * (a0 * (dx[at] as number) + a1 * (dx[at + 1] as number) + a2 * (dx[at + 2] as number) + a3 * (dx[at + 3] as number));
    sy += w * (a0 * (dy[at] as number) + a1 * (dy[at + 1] as number) + a2 * (dy[at + 2] as number) + a3 * (dy[at + 3] as number));
  }
  out[0] = sx;
  out[1] = sy;
}

const across = newWeights();
const down = newWeights();

/**
 * Displacement at a place of the box, px from its top left corner, and its slopes.
 * @param out dx, dy, d dx / dx, d dx / dy, d dy / dx, d dy / dy
 */
export function displacementAt({ cells, stepX, stepY, dx, dy }: ShimSpline, x: number, y: number, out: Float64Array): void {
  weightsAt(x / stepX, cells, across);
  weightsAt(y / stepY, cells, down);
  const columns = cells + 3;
  let [ax, ay, axx, axy, ayx, ayy] = [0, 0, 0, 0, 0, 0];
  for (let j = 0; j < 4; j += 1) {
    const [wj, sj] = [down.weights[j] as number, down.slopes[j] as number];
    let at = (down.first + j) * columns + across.first;
    for (let i = 0; i < 4; i += 1, at += 1) {
      const [wi, si] = [across.weights[i] as number, across.slopes[i] as number];
      const [cx, cy] = [dx[at] as number, dy[at] as number];
      ax += wi * wj * cx;
      ay += wi * wj * cy;
      axx += si * wj * cx;
      axy += wi * sj * cx;
      ayx += si * wj * cy;
      ayy += wi * sj * cy;
    }
  }
  out[0] = ax;
  out[1] = ay;
  out[2] = axx / stepX;
  out[3] = axy / stepY;
  out[4] = ayx / stepX;
  out[5] = ayy / stepY;
}
