import { solvePositive } from '../linear/cholesky';
import type { Point } from '../picture/point';
import { cellsOf, displacementAt, newWeights, weightsAt, type ShimSpline } from './shim-spline';

/** What lies at `from` is shown at `to`; px from the box's top left corner. */
export interface HeldPlace {
  readonly from: Point;
  readonly to: Point;
  readonly nail: boolean;
}

/** Something that becomes level, plumb or straight (or stays so): points along it, px from the box's top left corner. */
export interface LineInShim {
  readonly kind: 'level' | 'plumb' | 'straight';
  readonly points: readonly Point[];
}

/** Weights of bending, of what a hand moves, and of what must be so. */
const MOVED_WEIGHT = 1e4;
const NAILED_WEIGHT = 1e6;
/** Points of a line that are held, a cell. */
const PER_CELL = 4;
/** Where a line comes to lie follows from the net, and the net from where it lies. */
const ROUNDS = 20;
/** No farther at a time, cells: a line that is far from where it comes to lie does not jump beyond it. */
const FARTHEST = 0.25;
/** Where it lies has settled when it moves by no more than this, cells. */
const SETTLED = 2e-4;

/**
 * The spline with the least bending that moves what is to be moved, nails what is nailed, and takes lines where they become true.
 *
 * For a place on the result it tells where that comes from, so that everything asked for is a condition on it: D(to) = from - to, and for a
 * line n (r + D(r) - s) = 0 at places r of the true line, s and n being the point and the normal of what it comes from. Where the true
 * line lies (and, for straight ones, how it is turned) is solved along, by Gauss-Newton.
 * Minimised by Cholesky on the normal equations (Golub, Van Loan, Matrix computations, 4.2).
 *
 * @param crossings free controls a side, 4..12
 * @param width of the box, px; @param height likewise
 */
export function solveShim(
  crossings: number,
  width: number,
  height: number,
  held: readonly HeldPlace[],
  lines: readonly LineInShim[],
): ShimSpline {
  const cells = cellsOf(crossings);
  const columns = cells + 3;
  const spline: ShimSpline = {
    cells,
    stepX: width / cells,
    stepY: height / cells,
    dx: new Float64Array(columns * columns),
    dy: new Float64Array(columns * columns),
  };
  const inside = lines.map((line) => sampled(line, spline)).filter((line) => line !== null);
  if (held.length === 0 && inside.length === 0) return spline;
  const free = 2 * crossings * crossings;
  const size = free + 2 * inside.length;
  const row = newRow(spline, crossings, size);
  // what stays the same from round to round
  const ground = new Float64Array(size * size);
  const pulled = new Float64Array(size);
  addBending(ground, size, crossings, width / height);
  for (const { from, to, nail } of held)
    for (const k of [0, 1] as const) {
      row.at(to, k === 0 ? 1 : 0, k === 1 ? 1 : 0);
      row.add(ground, pulled, from[k] - to[k], nail ? NAILED_WEIGHT : MOVED_WEIGHT);
    }
  // what nothing says anything about stays where it is
  for (let i = 0; i < size; i += 1) ground[i * size + i] = (ground[i * size + i] as number) + 1e-9;
  for (let round = 0; round < (inside.length > 0 ? ROUNDS : 1); round += 1) {
    const [matrix, right] = [ground.slice(), pulled.slice()];
    inside.forEach((line, l) => addLine(line, free + 2 * l, spline, row, matrix, right));
    if (!solvePositive(matrix, right, size)) break;
    for (let j = 0, k = 0; j < crossings; j += 1)
      for (let i = 0; i < crossings; i += 1, k += 2) {
        spline.dx[(j + 3) * columns + i + 3] = right[k] as number;
        spline.dy[(j + 3) * columns + i + 3] = right[k + 1] as number;
      }
    let moved = 0;
    inside.forEach((line, l) => {
      const [shift, turn] = [right[free + 2 * l] as number, right[free + 2 * l + 1] as number];
      const whole = Math.abs(shift) + Math.abs(turn);
      const part = Math.min(1, (FARTHEST * Math.min(spline.stepX, spline.stepY)) / (whole || 1));
      moved = Math.max(moved, whole * part);
      for (const place of line.places) {
        const by = part * (shift + turn * place.along);
        place.at = [place.at[0] + line.across[0] * by, place.at[1] + line.across[1] * by];
      }
    });
    if (moved < SETTLED * Math.min(spline.stepX, spline.stepY)) break;
  }
  return spline;
}

interface PlaceOnLine {
  /** Where on the true line, px. */
  at: Point;
  /** -1..1 along it. */
  readonly along: number;
  /** What is to lie there, and the normal of what it lies on. */
  readonly from: Point;
  readonly normal: Point;
}

interface SampledLine {
  readonly places: readonly PlaceOnLine[];
  /** Square to the true line. */
  readonly across: Point;
  readonly mayTurn: boolean;
}

/** A line by places along it that lie where the net can move something; null where none do. */
function sampled({ kind, points }: LineInShim, { cells, stepX, stepY }: ShimSpline): SampledLine | null {
  const [a, b] = [points[0] as Point, points.at(-1) as Point];
  const lengths = points.map((p, i) => (i === 0 ? 0 : Math.hypot(p[0] - (points[i - 1] as Point)[0], p[1] - (points[i - 1] as Point)[1])));
  const whole = lengths.reduce((sum, length) => sum + length, 0);
  if (!(whole > 1)) return null;
  const [dx, dy] = [Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])];
  // what runs square to what it should become has no way there
  if ((kind === 'level' && dy > dx) || (kind === 'plumb' && dx > dy)) return null;
  const count = Math.max(9, Math.ceil((whole / Math.min(stepX, stepY)) * PER_CELL));
  const along = kind === 'level' ? 0 : kind === 'plumb' ? 1 : null;
  const direction: Point = along === 0 ? [1, 0] : along === 1 ? [0, 1] : [(b[0] - a[0]) / whole, (b[1] - a[1]) / whole];
  const unit = 1 / (Math.hypot(...direction) || 1);
  const [ux, uy] = [direction[0] * unit, direction[1] * unit];
  const on: { readonly p: Point; readonly normal: Point }[] = [];
  let segment = 1;
  let before = 0;
  for (let k = 0; k <= count; k += 1) {
    const s = (whole * k) / count;
    while (segment < points.length - 1 && s > before + (lengths[segment] as number)) before += lengths[segment++] as number;
    const [p, q] = [points[segment - 1] as Point, points[segment] as Point];
    const length = (lengths[segment] as number) || 1;
    const t = (s - before) / length;
    on.push({ p: [p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t], normal: [-(q[1] - p[1]) / length, (q[0] - p[0]) / length] });
  }
  const middle: Point = [on.reduce((sum, { p }) => sum + p[0], 0) / on.length, on.reduce((sum, { p }) => sum + p[1], 0) / on.length];
  const reach = on.map(({ p }) => (p[0] - middle[0]) * ux + (p[1] - middle[1]) * uy);
  const most = Math.max(...reach.map(Math.abs)) || 1;
  const places = on.flatMap(({ p, normal }, k): PlaceOnLine[] => {
    const way = reach[k] as number;
    const at: Point = [middle[0] + ux * way, middle[1] + uy * way];
    const within = (q: Point): boolean => q[0] > stepX && q[0] < (cells - 1) * stepX && q[1] > stepY && q[1] < (cells - 1) * stepY;
    return within(p) && within(at) ? [{ at, along: way / most, from: p, normal }] : [];
  });
  return places.length < 2 ? null : { places, across: [-uy, ux], mayTurn: kind === 'straight' };
}

function addLine(line: SampledLine, unknown: number, spline: ShimSpline, row: Row, matrix: Float64Array, right: Float64Array): void {
  const at = new Float64Array(6);
  const [mx, my] = line.across;
  for (const { at: place, along, from, normal } of line.places) {
    const [nx, ny] = normal;
    displacementAt(spline, place[0], place[1], at);
    // how the place it comes from moves when the true line is shifted
    const vx = mx + (at[2] as number) * mx + (at[3] as number) * my;
    const vy = my + (at[4] as number) * mx + (at[5] as number) * my;
    const slope = nx * vx + ny * vy;
    row.at(place, nx, ny);
    row.set(unknown, slope);
    row.set(unknown + 1, line.mayTurn ? slope * along : 0);
    row.add(matrix, right, nx * (from[0] - place[0]) + ny * (from[1] - place[1]), NAILED_WEIGHT);
  }
}

interface Row {
  at(place: Point, nx: number, ny: number): void;
  set(unknown: number, value: number): void;
  add(matrix: Float64Array, right: Float64Array, value: number, weight: number): void;
}

/** One condition at a time: few of its coefficients are not zero. Unknowns are both displacements of control after control, then the lines'. */
function newRow({ cells, stepX, stepY }: ShimSpline, crossings: number, size: number): Row {
  const [across, down] = [newWeights(), newWeights()];
  const places = new Int32Array(34);
  const values = new Float64Array(34);
  let count = 0;
  const set = (place: number, value: number): void => {
    if (value === 0) return;
    places[count] = place;
    values[count] = value;
    count += 1;
  };
  return {
    at([x, y], nx, ny) {
      count = 0;
      weightsAt(x / stepX, cells, across);
      weightsAt(y / stepY, cells, down);
      for (let j = 0; j < 4; j += 1)
        for (let i = 0; i < 4; i += 1) {
          const [column, line] = [across.first + i - 3, down.first + j - 3];
          if (column < 0 || line < 0 || column >= crossings || line >= crossings) continue;
          const w = (across.weights[i] as number) * (down.weights[j] as number);
          const at = 2 * (line * crossings + column);
          set(at, w * nx);
          set(at + 1, w * ny);
        }
    },
    set,
    add(matrix, right, value, weight) {
      for (let p = 0; p < count; p += 1) {
        const [i, by] = [places[p] as number, weight * (values[p] as number)];
        right[i] = (right[i] as number) + by * value;
        for (let q = 0; q <= p; q += 1) {
          const at = i * size + (places[q] as number);
          matrix[at] = (matrix[at] as number) + by * (values[q] as number);
        }
      }
    },
  };
}

/**
 * Adds the bending energy of the free controls to the lower half of a matrix: squares of second differences along and twice the mixed ones,
 * of both displacements, in cells of the box's proportions.
 */
function addBending(matrix: Float64Array, size: number, crossings: number, ratio: number): void {
  const free = (i: number, j: number): number => (i < 0 || j < 0 || i >= crossings || j >= crossings ? -1 : 2 * (j * crossings + i));
  const add = (terms: readonly (readonly [number, number])[], weight: number): void => {
    for (const [p, u] of terms)
      for (const [q, v] of terms) {
        if (p < 0 || q < 0 || q > p) continue;
        for (const c of [0, 1]) {
          const at = (p + c) * size + q + c;
          matrix[at] = (matrix[at] as number) + weight * u * v;
        }
      }
  };
  for (let j = -1; j <= crossings; j += 1)
    for (let i = -1; i <= crossings; i += 1) {
      const here = free(i, j);
      add(
        [
          [free(i - 1, j), 1],
          [here, -2],
          [free(i + 1, j), 1],
        ],
        ratio ** -2,
      );
      add(
        [
          [free(i, j - 1), 1],
          [here, -2],
          [free(i, j + 1), 1],
        ],
        ratio ** 2,
      );
      add(
        [
          [here, 1],
          [free(i + 1, j), -1],
          [free(i, j + 1), -1],
          [free(i + 1, j + 1), 1],
        ],
        2,
      );
    }
}
