import { degrees, radians, type Point, type Size } from '../picture/point';
import { levelsOf, type Raster } from '../raster/raster';
import { greyOf, smoothed } from './brightness';
import type { Witness } from './witnesses';

/** How a page lies: its lines of writing. */
export interface SheetAngle {
  /** Slope of its lines, degrees, positive where they rise to the right. */
  readonly slopeDeg: number;
  /** Standard deviation, degrees: by how its four quarters scatter. */
  readonly sdDeg: number;
  /** Whether so much is written that it can hardly be a few edges; whether it looks like paper, mostly as bright as its brightest. */
  readonly dense: boolean;
  readonly bright: boolean;
  /** How much sharper its rows are at that angle than at others. */
  readonly sharpness: number;
  /** The sharpest rows, from side to side of what is written; picture px. */
  readonly rows: readonly (readonly [Point, Point])[];
}

/** The long side of the level that is read, px. */
const READ_PX = 1300;
const MOST_DEG = 12;
const COARSE_DEG = 0.2;
const FINE_DEG = 0.02;
/** Points of writing that are looked at. */
const MOST_POINTS = 60000;
const FEWEST_POINTS = 800;
/** No angle is better known, degrees. */
const LEAST_SD_DEG = 0.006;
/** Rows of a page are this much sharper at its angle than at others. */
const LEAST_SHARPNESS = 1.6;

/**
 * The angle of a page's lines of writing, by the sharpness of its projection: rows are darkest and lightest where they run along the lines.
 *
 * @param picture it, or a smaller copy of it
 * @param size of the picture
 * @returns null where nothing is written, or no angle stands out
 * Source: Postl 1986, Detection of linear oblique structures and skew scan in digitized documents, from memory.
 */
export function findSheetAngle(picture: Raster, size: Size): SheetAngle | null {
  const level = levelsOf(picture, READ_PX).at(-1) as Raster;
  if (Math.min(level.width, level.height) < 48) return null;
  const brightness = smoothed(greyOf(level)).data;
  const points = written(brightness, level.width, level.height);
  if (points.length < FEWEST_POINTS) return null;
  const reach = Math.hypot(level.width, level.height);
  const coarse = sharpest(points, reach, 0, MOST_DEG, COARSE_DEG);
  const fine = sharpest(points, reach, coarse.deg, COARSE_DEG, FINE_DEG);
  const sharpness = coarse.value / coarse.usual;
  if (sharpness < LEAST_SHARPNESS || Math.abs(coarse.deg) > MOST_DEG - COARSE_DEG) return null;
  const [cx, cy] = [level.width / 2, level.height / 2];
  const quarters = [0, 1, 2, 3]
    .map((q) => points.filter(([x, y]) => Number(x >= cx) + 2 * Number(y >= cy) === q))
    .filter((of) => of.length > FEWEST_POINTS / 2)
    .map((of) => sharpest(of, reach, fine.deg, 3 * COARSE_DEG, FINE_DEG).deg);
  const scatter = quarters.length < 2 ? COARSE_DEG : Math.sqrt(quarters.reduce((sum, v) => sum + (v - fine.deg) ** 2, 0) / quarters.length);
  const scale = size.width / level.width;
  return {
    slopeDeg: fine.deg,
    sdDeg: Math.max(LEAST_SD_DEG, scatter / Math.sqrt(Math.max(1, quarters.length))),
    sharpness,
    dense: points.length > DENSE * brightness.length,
    bright: looksLikePaper(brightness),
    rows: rowsAt(points, fine.deg, reach).map(([p, q]) => [
      [p[0] * scale, p[1] * scale],
      [q[0] * scale, q[1] * scale],
    ]),
  };
}

/** A page has so many points of writing, as a share of its pixels. */
const DENSE = 0.02;
/** Paper is bright, so much of it as bright as its brightest twentieth but for a fifth. */
const PAPER_LEAST = 0.6;
const PAPER_SHARE = 0.6;

function looksLikePaper(brightness: Float32Array): boolean {
  const some = brightness.filter((_, i) => i % 97 === 0).sort();
  const bright = some[Math.floor(some.length * 0.95)] ?? 0;
  return bright >= PAPER_LEAST && some.filter((v) => v >= 0.8 * bright).length >= PAPER_SHARE * some.length;
}

/** Where brightness steps up or down between rows: the tops and feet of letters. */
function written(brightness: Float32Array, width: number, height: number): Point[] {
  const found: Point[] = [];
  for (let y = 2; y + 2 < height; y += 1)
    for (let x = 2; x + 2 < width; x += 1)
      if (Math.abs((brightness[(y + 1) * width + x] as number) - (brightness[(y - 1) * width + x] as number)) > 0.12) found.push([x, y]);
  const every = Math.ceil(found.length / MOST_POINTS);
  return every <= 1 ? found : found.filter((_, i) => i % every === 0);
}

/** Sum of squares of how the projection changes from row to row, at a slope. */
function sharpnessAt(points: readonly Point[], deg: number, rows: Float32Array, reach: number): number {
  rows.fill(0);
  const [c, s] = [Math.cos(radians(deg)), Math.sin(radians(deg))];
  for (const [x, y] of points) {
    const at = y * c + x * s + reach;
    const row = Math.floor(at);
    rows[row] = (rows[row] as number) + 1 - (at - row);
    rows[row + 1] = (rows[row + 1] as number) + at - row;
  }
  let sum = 0;
  for (let i = 1; i < rows.length; i += 1) sum += ((rows[i] as number) - (rows[i - 1] as number)) ** 2;
  return sum;
}

/** The sharpest slope about one, with a parabola through the best and its neighbours; and how sharp slopes usually are. */
function sharpest(
  points: readonly Point[],
  reach: number,
  about: number,
  most: number,
  step: number,
): { readonly deg: number; readonly value: number; readonly usual: number } {
  const rows = new Float32Array(Math.ceil(3 * reach) + 2);
  const count = Math.round(most / step);
  const values = Array.from({ length: 2 * count + 1 }, (_, i) => sharpnessAt(points, about + (i - count) * step, rows, reach));
  const best = values.indexOf(Math.max(...values));
  const [p, q, r] = [values[best - 1], values[best] as number, values[best + 1]];
  const curve = p !== undefined && r !== undefined ? p - 2 * q + r : 0;
  const shift = curve < 0 ? ((p as number) - (r as number)) / (2 * curve) : 0;
  return { deg: about + (best - count + shift) * step, value: q, usual: [...values].sort((a, b) => a - b)[values.length >> 1] as number };
}

/** The two sharpest rows in the upper and the lower half of what is written, from its first to its last point there. */
function rowsAt(points: readonly Point[], deg: number, reach: number): (readonly [Point, Point])[] {
  const [c, s] = [Math.cos(radians(deg)), Math.sin(radians(deg))];
  const counts = new Map<number, number>();
  const rowOf = ([x, y]: Point): number => Math.round(y * c + x * s + reach);
  for (const point of points) counts.set(rowOf(point), (counts.get(rowOf(point)) ?? 0) + 1);
  const middle = [...points.map(rowOf)].sort((p, q) => p - q)[points.length >> 1] as number;
  return [true, false].flatMap((upper): (readonly [Point, Point])[] => {
    const best = [...counts].filter(([row]) => row < middle === upper).sort((p, q) => q[1] - p[1])[0];
    if (!best) return [];
    const on = points.filter((point) => Math.abs(rowOf(point) - best[0]) <= 1).map(([x]) => x);
    const [x0, x1] = [Math.min(...on), Math.max(...on)];
    const yAt = (x: number): number => (best[0] - reach - x * s) / c;
    return x1 - x0 > 40
      ? [
          [
            [x0, yAt(x0)],
            [x1, yAt(x1)],
          ],
        ]
      : [];
  });
}

/** Edges within this of a sheet's angle lie along it, degrees; so much of all edges by length does. */
const ALONG_DEG = 0.3;
const MOSTLY = 0.5;
const FEWEST_EDGES = 4;
const MOST_EDGES = 8;

/**
 * How a sheet lies by its straight edges: their directions modulo a right angle.
 *
 * @returns the longest edges that lie along it, each level or plumb by how it runs, with the standard deviation of the angle; null where
 *   they do not agree
 */
export function squareEdges(witnesses: readonly Witness[]): {
  readonly edges: readonly (Witness & { readonly kind: 'level' | 'plumb' })[];
  readonly sdDeg: number;
  readonly mostly: boolean;
} | null {
  const total = witnesses.reduce((sum, { length }) => sum + length, 0);
  const folded = ({ p, q }: Witness): number => {
    const deg = degrees(Math.atan2(p[1] - q[1], q[0] - p[0]));
    return deg - 90 * Math.round(deg / 90);
  };
  const about = (deg: number): readonly Witness[] =>
    witnesses.filter((w) => {
      const off = folded(w) - deg;
      return Math.abs(off - 90 * Math.round(off / 90)) <= ALONG_DEG;
    });
  const lengthOf = (of: readonly Witness[]): number => of.reduce((sum, { length }) => sum + length, 0);
  const best = witnesses
    .slice(0, 40)
    .map(folded)
    .reduce<{ deg: number; length: number } | null>((most, deg) => {
      const length = lengthOf(about(deg));
      return most && most.length >= length ? most : { deg, length };
    }, null);
  if (!best || Math.abs(best.deg) > MOST_DEG) return null;
  const along = about(best.deg);
  if (along.length < FEWEST_EDGES || best.length < MOSTLY * total) return null;
  const mean = along.reduce((sum, w) => sum + w.length * folded(w), 0) / best.length;
  const scatter = Math.sqrt(along.reduce((sum, w) => sum + w.length * (folded(w) - mean) ** 2, 0) / best.length);
  return {
    edges: along
      .slice(0, MOST_EDGES)
      .map((w) => ({ ...w, kind: Math.abs(w.q[0] - w.p[0]) >= Math.abs(w.q[1] - w.p[1]) ? 'level' : 'plumb' })),
    sdDeg: Math.max(LEAST_SD_DEG, scatter / Math.sqrt(Math.min(MOST_EDGES, along.length))),
    mostly: best.length >= 0.8 * total,
  };
}
