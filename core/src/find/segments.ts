import type { Point } from '../picture/point';
import type { Grey } from './brightness';

/** A straight stretch along which brightness steps one way; ends in px of the level it was found on. */
export interface Segment {
  readonly a: Point;
  readonly b: Point;
  /** Mean step of brightness a pixel, 0..1. */
  readonly strength: number;
}

/** Gradients within this of each other belong together. */
const TOLERANCE = Math.PI / 8;
/** Steps below this are what rounding to 8 bits makes of nothing: 2 / sin(tolerance) of 255. */
const LEAST_STEP = 1 / Math.sin(TOLERANCE) / 255;
/** Share of a rectangle that its region must fill. */
const LEAST_DENSITY = 0.7;
const BINS = 1024;
/** Chance of one gradient to lie within the tolerance. */
const BY_CHANCE = TOLERANCE / Math.PI;

/**
 * Straight stretches of a level: regions of like gradient direction, grown from the strongest steps, each the rectangle it fills, and kept
 * where chance would make one like it less than once in a picture of noise.
 *
 * @param smooth brightness of the level, as `smoothed` makes it
 * @param leastPx shorter ones are left out, px of the level
 * @returns the strongest first; the brighter side lies to the right of the way from a to b
 * Source: Grompone von Gioi, Jakubowicz, Morel, Randall 2010, LSD: a fast line segment detector with a false detection control, from
 * memory; the rectangle's aligned pixels are those of its region, and its sides are not varied.
 */
export function findSegments(smooth: Grey, leastPx: number): Segment[] {
  const field = fieldOf(smooth);
  const { used, region } = field;
  const tests = 2.5 * (Math.log10(smooth.width) + Math.log10(smooth.height)) + Math.log10(11);
  const found: Segment[] = [];
  for (const seed of strongestFirst(field)) {
    if (used[seed] !== FREE) continue;
    let n = grow(field, seed, TOLERANCE);
    if (n < LEAST_DENSITY * leastPx) continue;
    let box = boxOf(field, n);
    if (n / (box.length * box.width) < LEAST_DENSITY) {
      // a bend, or two that meet: what goes the way of its seed more strictly, then what lies near it
      const strict = spreadAbout(field, seed, n, box.width);
      for (let k = 0; k < n; k += 1) used[region[k] as number] = FREE;
      n = grow(field, seed, Math.min(TOLERANCE, 2 * strict));
      if (n < 2) continue;
      box = boxOf(field, n);
      let radius = box.length;
      while (n / (box.length * box.width) < LEAST_DENSITY && n >= 2 && radius > leastPx / 2) {
        radius *= 0.75;
        n = within(field, seed, n, radius);
        if (n < 2) break;
        box = boxOf(field, n);
      }
      if (n < 2 || n / (box.length * box.width) < LEAST_DENSITY) continue;
    }
    if (box.length < leastPx) continue;
    const area = Math.max(n, box.length * box.width);
    if (tests + logTail(area, n, BY_CHANCE) > 0) continue;
    found.push({ a: box.a, b: box.b, strength: box.strength });
  }
  return found;
}

/** What a pixel is used for: it may be taken, it is part of a segment or was tried in vain, or brightness does not step there. */
const [FREE, TAKEN, FLAT] = [0, 1, 2];

/**
 * How brightness steps at each pixel, row by row: between it and its neighbours to the right and below. The last column and row are flat,
 * which keeps what grows from going round the side.
 */
interface Field {
  readonly width: number;
  /** The direction of the step, unit vectors, x and y in turn; its size, brightness a pixel; the largest of all. */
  readonly way: Float32Array;
  readonly size: Float32Array;
  readonly most: number;
  readonly used: Uint8Array;
  /** The pixels of the region that was grown last, and room for where they lie. */
  readonly region: Int32Array;
  readonly columns: Int32Array;
  readonly rows: Int32Array;
}

// plain arithmetic without intermediate arrays from here on: millions of pixels go through it

function fieldOf({ width, height, data }: Grey): Field {
  const count = width * height;
  const way = new Float32Array(2 * count);
  const size = new Float32Array(count);
  const used = new Uint8Array(count).fill(FLAT);
  let most = 0;
  for (let y = 0; y + 1 < height; y += 1)
    for (let x = 0, i = y * width; x + 1 < width; x += 1, i += 1) {
      const down = (data[i + width + 1] as number) - (data[i] as number);
      const up = (data[i + 1] as number) - (data[i + width] as number);
      const dx = (down + up) / 2;
      const dy = (down - up) / 2;
      const square = dx * dx + dy * dy;
      if (square < LEAST_STEP * LEAST_STEP) continue;
      const g = Math.sqrt(square);
      way[2 * i] = dx / g;
      way[2 * i + 1] = dy / g;
      size[i] = g;
      used[i] = FREE;
      if (g > most) most = g;
    }
  const places = (): Int32Array => new Int32Array(count);
  return { width, way, size, most, used, region: places(), columns: places(), rows: places() };
}

/** Pixels with a step, the strongest first, by a thousand bins. */
function strongestFirst({ size, most }: Field): Int32Array {
  const perStep = BINS / most;
  const starts = new Int32Array(BINS + 1);
  for (let i = 0; i < size.length; i += 1) {
    const g = size[i] as number;
    if (g === 0) continue;
    const b = Math.max(0, BINS - 1 - Math.floor(g * perStep));
    starts[b + 1] = (starts[b + 1] as number) + 1;
  }
  for (let b = 0; b < BINS; b += 1) starts[b + 1] = (starts[b + 1] as number) + (starts[b] as number);
  const order = new Int32Array(starts[BINS] as number);
  for (let i = 0; i < size.length; i += 1) {
    const g = size[i] as number;
    if (g === 0) continue;
    const b = Math.max(0, BINS - 1 - Math.floor(g * perStep));
    const at = starts[b] as number;
    order[at] = i;
    starts[b] = at + 1;
  }
  return order;
}

/** Grows a region from a seed: neighbours whose gradient goes the region's way. Returns how many pixels it has. */
function grow({ way, width, used, region }: Field, seed: number, tolerance: number): number {
  const least = Math.cos(tolerance) ** 2;
  let sx = way[2 * seed] as number;
  let sy = way[2 * seed + 1] as number;
  let bound = least * (sx * sx + sy * sy);
  region[0] = seed;
  used[seed] = TAKEN;
  let n = 1;
  for (let k = 0; k < n; k += 1) {
    const at = region[k] as number;
    for (let row = at - width; row <= at + width; row += width)
      for (let p = row > 0 ? row - 1 : 0; p <= row + 1; p += 1) {
        if (used[p] !== FREE) continue;
        const px = way[2 * p] as number;
        const py = way[2 * p + 1] as number;
        // within the tolerance of the sum: the cosine, squared
        const along = px * sx + py * sy;
        if (along < 0 || along * along < bound) continue;
        used[p] = TAKEN;
        region[n] = p;
        n += 1;
        sx += px;
        sy += py;
        bound = least * (sx * sx + sy * sy);
      }
  }
  return n;
}

/** How gradients near the seed scatter about its own, radians. */
function spreadAbout({ way, width, region }: Field, seed: number, n: number, near: number): number {
  const [x0, y0] = [seed % width, Math.floor(seed / width)];
  const [c, s] = [way[2 * seed] as number, way[2 * seed + 1] as number];
  let [sum, squares, total] = [0, 0, 0];
  for (let k = 0; k < n; k += 1) {
    const p = region[k] as number;
    const y = (p / width) | 0;
    const [dx, dy] = [p - y * width - x0, y - y0];
    if (dx * dx + dy * dy > near * near) continue;
    const [px, py] = [way[2 * p] as number, way[2 * p + 1] as number];
    const off = Math.atan2(c * py - s * px, c * px + s * py);
    sum += off;
    squares += off * off;
    total += 1;
  }
  const mean = sum / total;
  return Math.sqrt(Math.max(0, squares / total - mean * mean));
}

/** Leaves of the region what lies within a radius of its seed; frees the rest. Returns how many pixels are left. */
function within({ width, used, region }: Field, seed: number, n: number, radius: number): number {
  const [x0, y0] = [seed % width, Math.floor(seed / width)];
  let left = 0;
  for (let k = 0; k < n; k += 1) {
    const p = region[k] as number;
    const y = (p / width) | 0;
    const dx = p - y * width - x0;
    if (dx * dx + (y - y0) * (y - y0) <= radius * radius) {
      region[left] = p;
      left += 1;
    } else used[p] = FREE;
  }
  return left;
}

interface Box {
  readonly a: Point;
  readonly b: Point;
  readonly length: number;
  readonly width: number;
  readonly strength: number;
}

/** The rectangle of the region, by its weighted middle and the axis of its inertia. */
function boxOf({ way, size, width, region, columns, rows }: Field, n: number): Box {
  const first = region[0] as number;
  const y0 = (first / width) | 0;
  const x0 = first - y0 * width;
  let total = 0;
  let wx = 0;
  let wy = 0;
  let wxx = 0;
  let wyy = 0;
  let wxy = 0;
  let sx = 0;
  let sy = 0;
  for (let k = 0; k < n; k += 1) {
    const p = region[k] as number;
    const w = size[p] as number;
    const row = (p / width) | 0;
    const y = row - y0;
    const x = p - row * width - x0;
    columns[k] = x;
    rows[k] = y;
    total += w;
    wx += w * x;
    wy += w * y;
    wxx += w * x * x;
    wyy += w * y * y;
    wxy += w * x * y;
    sx += way[2 * p] as number;
    sy += way[2 * p + 1] as number;
  }
  const mx = wx / total;
  const my = wy / total;
  const ixx = wxx - wx * mx;
  const iyy = wyy - wy * my;
  const ixy = wxy - wx * my;
  const axis = 0.5 * Math.atan2(2 * ixy, ixx - iyy);
  let [ux, uy] = [Math.cos(axis), Math.sin(axis)];
  // the brighter side to the right of the way: (-uy, ux) is what lies to its right, y downwards
  if (-uy * sx + ux * sy < 0) [ux, uy] = [-ux, -uy];
  let l0 = Infinity;
  let l1 = -Infinity;
  let w0 = Infinity;
  let w1 = -Infinity;
  for (let k = 0; k < n; k += 1) {
    const dx = (columns[k] as number) - mx;
    const dy = (rows[k] as number) - my;
    const l = dx * ux + dy * uy;
    const w = dy * ux - dx * uy;
    if (l < l0) l0 = l;
    if (l > l1) l1 = l;
    if (w < w0) w0 = w;
    if (w > w1) w1 = w;
  }
  // a gradient of four pixels lies at the corner where they meet
  const at = (l: number): Point => [x0 + mx + 1 + ux * l, y0 + my + 1 + uy * l];
  return { a: at(l0), b: at(l1), length: Math.max(1, l1 - l0), width: Math.max(1, w1 - w0), strength: total / n };
}

/**
 * Logarithm to ten of the chance that of n things at least k happen, each by chance p.
 * @param n not necessarily whole, n >= k
 */
export function logTail(n: number, k: number, p: number): number {
  if (k <= n * p) return 0;
  // the sum is hardly more than its first term: each next one is smaller by at least this factor
  const first = logGamma(n + 1) - logGamma(k + 1) - logGamma(n - k + 1) + k * Math.log(p) + (n - k) * Math.log(1 - p);
  const factor = (Math.max(0, n - k) / (k + 1)) * (p / (1 - p));
  return Math.min(0, (first - Math.log(1 - Math.min(0.999, factor))) / Math.LN10);
}

/** Logarithm of the gamma function for x >= 1. Source: Stirling's series, Abramowitz, Stegun 6.1.41, after raising x to 8 or more. */
function logGamma(x: number): number {
  let [at, below] = [x, 0];
  while (at < 8) {
    below += Math.log(at);
    at += 1;
  }
  return (at - 0.5) * Math.log(at) - at + 0.5 * Math.log(2 * Math.PI) + 1 / (12 * at) - 1 / (360 * at ** 3) + 1 / (1260 * at ** 5) - below;
}
