import type { Point } from '../picture/point';
import { polygonArea } from '../picture/polygon';
import type { Planes } from './lid';
import { seamOf } from './seam';
import { boxArea, boxOf, commonArea, convexHull, type Part } from './parts';

/** Rectangles fill themselves by this share, sides that are rough or torn included. */
const FULL = 0.93;
/** A part that is filled less than this may be two prints. */
const NOT_FULL = 0.9;
/** A cut has to make both of its sides fuller by this. */
const GAIN = 0.03;
/** Prints side by side fill one rectangle by this. */
const SEAMED = 0.8;
const MOST_CUTS = 11;
const WAYS = 90;
/** The smaller side of a cut is at least this share of the larger one. */
const LEAST = 0.04;

/** What may be a print. */
export interface Candidate {
  readonly hull: readonly Point[];
  /** Share of the rectangle around it that it fills. */
  readonly fullness: number;
  /** Whether a point of the level is another's, beyond a line along which they were parted. */
  readonly isOthers: (p: Point) => boolean;
  /** Whether it looks like several prints that could not be parted. */
  readonly unsure: boolean;
}

/**
 * A part as the print that it is, or, where prints touch or overlap, as several, parted along straight lines through the corners where
 * their sides meet.
 *
 * @param map which pixel belongs to which part
 * @param planes the colours of the level
 */
export function partTouching(part: Part, map: Int32Array, planes: Planes): Candidate[] {
  const whole = new Region(filled(part, map, planes.width, planes.height));
  const regions = [whole];
  for (let tries = 0; tries < 2 * MOST_CUTS; tries += 1) {
    const at = regions.findIndex((r) => !r.tried);
    if (at < 0) break;
    const region = regions[at] as Region;
    region.tried = true;
    const seam = region.fullness >= SEAMED ? seamOf(region.pixels, region.hull, planes) : null;
    const cut = seam ? cutAt(region, seam.at, seam.way) : region.fullness < NOT_FULL ? bestCut(region) : null;
    if (cut) regions.splice(at, 1, ...cut);
  }
  const unsure = regions.length === 1 && whole.fullness < NOT_FULL && whole.fullness > 0.5;
  return regions.map(({ hull, fullness, cuts }) => ({
    hull,
    fullness,
    unsure,
    isOthers: (p) => cuts.some(({ at, way, left }) => sideOfCut(p, at, way) !== left),
  }));
}

/** What fills less of its rectangle is a piece of something: a shadow, what shows of a picture. */
const PIECE = 0.6;
/** Pieces whose hulls lie over another's by this share of the smaller one belong to it. */
const COMMON = 0.12;

/** Candidates with the pieces that lie over them put to them. */
export function joined(candidates: readonly Candidate[]): Candidate[] {
  const all = [...candidates];
  for (let again = true; again;) {
    again = false;
    for (let i = 0; i < all.length && !again; i += 1)
      for (let j = i + 1; j < all.length && !again; j += 1) {
        const [p, q] = [all[i] as Candidate, all[j] as Candidate];
        if (Math.min(p.fullness, q.fullness) >= PIECE) continue;
        if (commonArea(p.hull, q.hull) <= COMMON * Math.min(polygonArea(p.hull), polygonArea(q.hull))) continue;
        const hull = convexHull([...p.hull, ...q.hull]);
        all.splice(j, 1);
        all[i] = { hull, fullness: Math.max(p.fullness, q.fullness), unsure: false, isOthers: (at) => p.isOthers(at) && q.isOthers(at) };
        again = true;
      }
  }
  return all;
}

/** A line along which a region was parted, and on which side of it this one lies. */
interface Cut {
  readonly at: Point;
  readonly way: number;
  readonly left: boolean;
}

/** Pixels of one part, by rows. */
class Region {
  tried = false;
  readonly hull: readonly Point[];
  readonly fullness: number;

  constructor(
    readonly pixels: readonly Point[],
    readonly cuts: readonly Cut[] = [],
  ) {
    const ends = new Map<number, [number, number]>();
    for (const [x, y] of pixels) {
      const row = ends.get(y);
      if (!row) ends.set(y, [x, x]);
      else if (x < row[0]) row[0] = x;
      else if (x > row[1]) row[1] = x;
    }
    this.hull = convexHull(
      [...ends].flatMap(([y, [l, r]]): Point[] => [
        [l, y],
        [l, y + 1],
        [r + 1, y],
        [r + 1, y + 1],
      ]),
    );
    this.fullness = pixels.length / Math.max(1, boxArea(boxOf(this.hull)));
  }
}

/** The pixels of a part, what it encloses included. */
function filled({ number, hull }: Part, map: Int32Array, width: number, height: number): Point[] {
  const [x0, x1] = [
    Math.max(0, Math.floor(Math.min(...hull.map((p) => p[0]))) - 1),
    Math.min(width, Math.ceil(Math.max(...hull.map((p) => p[0]))) + 1),
  ];
  const [y0, y1] = [
    Math.max(0, Math.floor(Math.min(...hull.map((p) => p[1]))) - 1),
    Math.min(height, Math.ceil(Math.max(...hull.map((p) => p[1]))) + 1),
  ];
  const [w, h] = [x1 - x0 + 2, y1 - y0 + 2];
  // what is reached from outside is outside; with a margin all round
  const outside = new Uint8Array(w * h);
  const solid = (i: number, j: number): boolean => {
    const [x, y] = [x0 + i - 1, y0 + j - 1];
    return x >= 0 && y >= 0 && x < width && y < height && map[y * width + x] === number;
  };
  const stack = [0];
  outside[0] = 1;
  for (let k = stack.pop(); k !== undefined; k = stack.pop()) {
    const [i, j] = [k % w, Math.floor(k / w)];
    for (const [a, b] of [
      [i - 1, j],
      [i + 1, j],
      [i, j - 1],
      [i, j + 1],
    ] as const) {
      if (a < 0 || b < 0 || a >= w || b >= h) continue;
      const n = b * w + a;
      if (outside[n] === 1 || solid(a, b)) continue;
      outside[n] = 1;
      stack.push(n);
    }
  }
  const pixels: Point[] = [];
  for (let j = 0; j < h; j += 1) for (let i = 0; i < w; i += 1) if (outside[j * w + i] === 0) pixels.push([x0 + i - 1, y0 + j - 1]);
  return pixels;
}

/** The straight cut after which both sides are fullest; null where none is good enough. */
function bestCut(region: Region): [Region, Region] | null {
  let best: { readonly value: number; readonly cut: [Region, Region] } | null = null;
  const every = Math.max(1, Math.floor(region.pixels.length / 6000));
  const some = region.pixels.filter((_, i) => i % every === 0);
  const corners = notches(region);
  for (const at of corners) {
    for (let k = 0; k < WAYS; k += 1) {
      const way = (k * Math.PI) / WAYS;
      const value = worth(some, at, way);
      if (value === null || (best && value <= best.value)) continue;
      const cut = cutAt(region, at, way);
      const least = Math.min(cut[0].fullness, cut[1].fullness);
      if (!best || least > best.value) best = { value: least, cut };
    }
  }
  if (!best) return null;
  const { value, cut } = best;
  const good = value >= FULL || (value > region.fullness + GAIN && Math.max(cut[0].fullness, cut[1].fullness) >= FULL);
  return good ? cut : null;
}

const sideOfCut = ([x, y]: Point, at: Point, way: number): boolean => (x + 0.5 - at[0]) * Math.sin(way) < (y + 0.5 - at[1]) * Math.cos(way);

const cutAt = (region: Region, at: Point, way: number): [Region, Region] =>
  [true, false].map(
    (left) =>
      new Region(
        region.pixels.filter((p) => sideOfCut(p, at, way) === left),
        [...region.cuts, { at, way, left }],
      ),
  ) as [Region, Region];

/** How full the emptier side would be, from some of the pixels; null where one side has next to nothing. */
function worth(some: readonly Point[], at: Point, way: number): number | null {
  const sides = [some.filter((p) => sideOfCut(p, at, way)), some.filter((p) => !sideOfCut(p, at, way))];
  const [a, b] = sides.map((s) => s.length) as [number, number];
  if (Math.min(a, b) < LEAST * Math.max(a, b)) return null;
  // thinned out evenly: the hull of what is left is a little small, alike for every cut
  return Math.min(...sides.map((s) => s.length / boxArea(boxOf(convexHull(s)))));
}

/** Where the outline goes furthest in from its hull: the notches between prints; the deepest first. */
function notches({ pixels, hull }: Region): Point[] {
  const found: { readonly at: Point; readonly depth: number }[] = [];
  const inside = new Set(pixels.map(([x, y]) => y * 100000 + x));
  const rim = pixels.filter(
    ([x, y]) =>
      !(
        inside.has(y * 100000 + x - 1) &&
        inside.has(y * 100000 + x + 1) &&
        inside.has((y - 1) * 100000 + x) &&
        inside.has((y + 1) * 100000 + x)
      ),
  );
  for (let i = 0; i < hull.length; i += 1) {
    const [p, q] = [hull[i] as Point, hull[(i + 1) % hull.length] as Point];
    const length = Math.hypot(q[0] - p[0], q[1] - p[1]);
    if (length < 12) continue;
    const [c, s] = [(q[0] - p[0]) / length, (q[1] - p[1]) / length];
    // seen from this side of the hull: the first pixel of the rim in each column
    const first = new Map<number, { readonly at: Point; readonly depth: number }>();
    for (const at of rim) {
      const [dx, dy] = [at[0] + 0.5 - p[0], at[1] + 0.5 - p[1]];
      const u = Math.round(dx * c + dy * s);
      const depth = dy * c - dx * s;
      if (u < 0 || u > length) continue;
      const before = first.get(u);
      if (!before || depth < before.depth) first.set(u, { at: [at[0] + 0.5, at[1] + 0.5], depth });
    }
    let deepest: { readonly at: Point; readonly depth: number } | null = null;
    for (const seen of first.values()) if (!deepest || seen.depth > deepest.depth) deepest = seen;
    if (deepest && deepest.depth > 3) found.push(deepest);
  }
  return found
    .sort((a, b) => b.depth - a.depth)
    .slice(0, 4)
    .map(({ at }) => at);
}
