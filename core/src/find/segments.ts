import type { Point } from '../picture/point';
import { largestSample, type Raster } from '../raster/raster';

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

/** Brightness of a level as numbers, 0..1, lightly smoothed (1 2 1 each way): pixel noise and compression blocks count less. */
export function smoothBrightness({ width, height, channels, data, ...rest }: Raster): Float32Array {
  const scale = 1 / largestSample({ ...rest, data }) / 16;
  const grey = new Float32Array(width * height);
  if (channels >= 3)
    for (let i = 0, k = 0; i < grey.length; i += 1, k += channels)
      grey[i] = (0.2126 * (data[k] as number) + 0.7152 * (data[k + 1] as number) + 0.0722 * (data[k + 2] as number)) * scale;
  else for (let i = 0, k = 0; i < grey.length; i += 1, k += channels) grey[i] = (data[k] as number) * scale;
  const across = new Float32Array(width * height);
  for (let y = 0; y < height; y += 1) {
    const row = y * width;
    for (let x = 0; x < width; x += 1) {
      const [p, q] = [x > 0 ? x - 1 : 0, x + 1 < width ? x + 1 : x];
      across[row + x] = (grey[row + p] as number) + 2 * (grey[row + x] as number) + (grey[row + q] as number);
    }
  }
  for (let y = 0; y < height; y += 1) {
    const [row, up, low] = [y * width, (y > 0 ? y - 1 : 0) * width, (y + 1 < height ? y + 1 : y) * width];
    for (let x = 0; x < width; x += 1)
      grey[row + x] = (across[up + x] as number) + 2 * (across[row + x] as number) + (across[low + x] as number);
  }
  return grey;
}

/**
 * Straight stretches of a level: regions of like gradient direction, grown from the strongest steps, each the rectangle it fills, and kept
 * where chance would make one like it less than once in a picture of noise.
 *
 * @param brightness of the level, row by row, as {@link smoothBrightness} makes it
 * @param leastPx shorter ones are left out, px of the level
 * @returns the strongest first; the brighter side lies to the right of the way from a to b
 * Source: Grompone von Gioi, Jakubowicz, Morel, Randall 2010, LSD: a fast line segment detector with a false detection control, from
 * memory; the rectangle's aligned pixels are those of its region, and its sides are not varied.
 */
export function findSegments(brightness: Float32Array, width: number, height: number, leastPx: number): Segment[] {
  const count = width * height;
  const gx = new Float32Array(count);
  const gy = new Float32Array(count);
  const size = new Float32Array(count);
  let most = 0;
  for (let y = 0; y + 1 < height; y += 1) {
    for (let x = 0, i = y * width; x + 1 < width; x += 1, i += 1) {
      const [p, q] = [brightness[i] as number, brightness[i + 1] as number];
      const [r, s] = [brightness[i + width] as number, brightness[i + width + 1] as number];
      const [dx, dy] = [(q + s - p - r) / 2, (r + s - p - q) / 2];
      const g = Math.sqrt(dx * dx + dy * dy);
      if (g < LEAST_STEP) continue;
      gx[i] = dx / g;
      gy[i] = dy / g;
      size[i] = g;
      if (g > most) most = g;
    }
  }
  const order = strongestFirst(size, most);
  // 0 free, 1 taken by a segment or tried in vain
  const used = new Uint8Array(count);
  const region = new Int32Array(count);
  const field: Field = { gx, gy, size, width, height, used, region };
  const tests = 2.5 * (Math.log10(width) + Math.log10(height)) + Math.log10(11);
  const found: Segment[] = [];
  for (const seed of order) {
    if (used[seed] !== 0) continue;
    const seeded = Math.atan2(gy[seed] as number, gx[seed] as number);
    let n = grow(field, seed, seeded, TOLERANCE);
    if (n * 2 < leastPx) continue;
    let box = boxOf(field, n);
    if (n / (box.length * box.width) < LEAST_DENSITY) {
      // a bend, or two that meet: what goes the way of its seed more strictly, then what lies near it
      const strict = spreadAbout(field, seed, seeded, n, box.width);
      for (let k = 0; k < n; k += 1) used[region[k] as number] = 0;
      n = grow(field, seed, seeded, Math.min(TOLERANCE, 2 * strict));
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

interface Field {
  readonly gx: Float32Array;
  readonly gy: Float32Array;
  readonly size: Float32Array;
  readonly width: number;
  readonly height: number;
  readonly used: Uint8Array;
  /** The pixels of the region that was grown last. */
  readonly region: Int32Array;
}

/** Pixels with a step, the strongest first, by a thousand bins. */
function strongestFirst(size: Float32Array, most: number): Int32Array {
  const bin = (g: number): number => Math.min(BINS - 1, Math.floor((g / most) * BINS));
  const starts = new Int32Array(BINS + 1);
  let total = 0;
  for (let i = 0; i < size.length; i += 1) {
    const g = size[i] as number;
    if (g === 0) continue;
    const b = BINS - 1 - bin(g);
    starts[b + 1] = (starts[b + 1] as number) + 1;
    total += 1;
  }
  for (let b = 0; b < BINS; b += 1) starts[b + 1] = (starts[b + 1] as number) + (starts[b] as number);
  const order = new Int32Array(total);
  for (let i = 0; i < size.length; i += 1) {
    const g = size[i] as number;
    if (g === 0) continue;
    const b = BINS - 1 - bin(g);
    order[starts[b] as number] = i;
    starts[b] = (starts[b] as number) + 1;
  }
  return order;
}

/** Grows a region from a seed: neighbours whose gradient goes the region's way. Returns how many pixels it has. */
function grow({ gx, gy, size, width, height, used, region }: Field, seed: number, angle: number, tolerance: number): number {
  const least = Math.cos(tolerance);
  let [sx, sy] = [Math.cos(angle), Math.sin(angle)];
  let n = 1;
  region[0] = seed;
  used[seed] = 1;
  let [ux, uy] = [sx, sy];
  for (let k = 0; k < n; k += 1) {
    const at = region[k] as number;
    const x = at % width;
    const y = (at - x) / width;
    for (let j = y > 0 ? y - 1 : y; j <= y + 1 && j < height; j += 1) {
      for (let i = x > 0 ? x - 1 : x, p = j * width + i; i <= x + 1 && i < width; i += 1, p += 1) {
        if (used[p] !== 0 || size[p] === 0) continue;
        const [px, py] = [gx[p] as number, gy[p] as number];
        if (px * ux + py * uy < least) continue;
        used[p] = 1;
        region[n] = p;
        n += 1;
        sx += px;
        sy += py;
        const length = Math.sqrt(sx * sx + sy * sy);
        ux = sx / length;
        uy = sy / length;
      }
    }
  }
  return n;
}

/** How gradients near the seed scatter about its own, radians. */
function spreadAbout({ gx, gy, width, region }: Field, seed: number, angle: number, n: number, near: number): number {
  const [x0, y0] = [seed % width, Math.floor(seed / width)];
  let [sum, squares, total] = [0, 0, 0];
  for (let k = 0; k < n; k += 1) {
    const p = region[k] as number;
    if (Math.hypot((p % width) - x0, Math.floor(p / width) - y0) > near) continue;
    let off = Math.atan2(gy[p] as number, gx[p] as number) - angle;
    off -= 2 * Math.PI * Math.round(off / (2 * Math.PI));
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
    if (Math.hypot((p % width) - x0, Math.floor(p / width) - y0) <= radius) {
      region[left] = p;
      left += 1;
    } else used[p] = 0;
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
function boxOf({ gx, gy, size, width, region }: Field, n: number): Box {
  let [total, mx, my, sx, sy] = [0, 0, 0, 0, 0];
  for (let k = 0; k < n; k += 1) {
    const p = region[k] as number;
    const w = size[p] as number;
    total += w;
    mx += w * (p % width);
    my += w * Math.floor(p / width);
    sx += gx[p] as number;
    sy += gy[p] as number;
  }
  mx /= total;
  my /= total;
  let [ixx, iyy, ixy] = [0, 0, 0];
  for (let k = 0; k < n; k += 1) {
    const p = region[k] as number;
    const w = size[p] as number;
    const [dx, dy] = [(p % width) - mx, Math.floor(p / width) - my];
    ixx += w * dx * dx;
    iyy += w * dy * dy;
    ixy += w * dx * dy;
  }
  const axis = 0.5 * Math.atan2(2 * ixy, ixx - iyy);
  let [ux, uy] = [Math.cos(axis), Math.sin(axis)];
  // the brighter side to the right of the way: (-uy, ux) is what lies to its right, y downwards
  if (-uy * sx + ux * sy < 0) [ux, uy] = [-ux, -uy];
  let [l0, l1, w0, w1] = [Infinity, -Infinity, Infinity, -Infinity];
  for (let k = 0; k < n; k += 1) {
    const p = region[k] as number;
    const [dx, dy] = [(p % width) - mx, Math.floor(p / width) - my];
    const [l, w] = [dx * ux + dy * uy, -dx * uy + dy * ux];
    if (l < l0) l0 = l;
    if (l > l1) l1 = l;
    if (w < w0) w0 = w;
    if (w > w1) w1 = w;
  }
  // a gradient of four pixels lies at the corner where they meet
  const at = (l: number): Point => [mx + 1 + ux * l, my + 1 + uy * l];
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
