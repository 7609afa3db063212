import { diagonal, type Point, type Size } from '../picture/point';
import type { Grey } from './brightness';

/** A boundary that runs straight through the picture from side to side. */
export interface Boundary {
  /** Ends in picture px, the left one first. */
  readonly a: Point;
  readonly b: Point;
  /** Standard deviation of an end across it, px. */
  readonly sdPx: number;
  /** Share of the width along which it is there, and the longest stretch without it. */
  readonly share: number;
  readonly gap: number;
  /** How far it departs from straight, as a share of the diagonal: root mean square. */
  readonly off: number;
  /** By how much rougher the rougher side is than the smoother one close to it, and how rough the smoother one is; steps of brightness, 0..1. */
  readonly rough: number;
  readonly smooth: number;
  /** What runs alongside it elsewhere, as a share of what it is: another boundary of the same kind. */
  readonly rival: number;
}

const STRIPS = 48;
/** Farthest that an eye line slopes, degrees. */
const MOST_SLOPE = 12;
/** Brightness changes over so many rows to either side of it, px of the level. */
const ROWS = 3;
/** Steps below this are nothing; above that they count no more. */
const LEAST_STEP = 0.02;
const MOST_STEP = 0.12;
/** A strip's step lies within so many px of the level of the line through all. */
const NEAR_PX = 3;
/** It runs along this share of the width, straight to this share of the diagonal. */
const LEAST_SHARE = 0.6;
const MOST_OFF = 0.001;
/** Nothing is better known, px of the level. */
const LEAST_SD_PX = 0.1;

/**
 * The boundary between two sides of a picture, the same side brighter all along: sought by exhaustion over height and slope in strips of
 * columns, settled strip by strip.
 *
 * @param smooth brightness of the picture, or of a smaller copy of it, smoothed
 * @param size of the picture
 * @param toIdeal takes the lens out, picture px to px in which straight things are straight
 * @returns null where there is none that is straight enough over enough of the width
 */
export function findBoundary(smooth: Grey, size: Size, toIdeal: (p: Point) => Point | null): Boundary | null {
  const { width, height, data: brightness } = smooth;
  if (width < STRIPS * 4 || height < 64) return null;
  const steps = stripSteps(brightness, width, height);
  const start = steepest(steps, width, height);
  if (!start) return null;
  const stripAt = (k: number): number => ((k + 0.5) / STRIPS) * width;
  // each strip's own step near the line, and the line through them, twice
  let [at, slope] = [start.at, start.slope];
  let found: { readonly x: number; readonly y: number; readonly k: number }[] = [];
  for (const near of [2 * NEAR_PX, NEAR_PX]) {
    found = Array.from({ length: STRIPS }, (_, k) => ({
      k,
      x: stripAt(k),
      y: settled(steps, height, k, at + slope * stripAt(k), near, start.sign),
    }))
      .filter(({ y }) => y !== null)
      .map(({ k, x, y }) => ({ k, x, y: y as number }));
    const line = robustLine(found);
    if (!line) return null;
    [at, slope] = [line.at, line.slope];
  }
  const scale = size.width / width;
  const ideal = found.flatMap(({ k, x, y }) => {
    const p = toIdeal([x * scale, y * scale]);
    return p ? [{ k, x: p[0] / scale, y: p[1] / scale }] : [];
  });
  const straight = robustLine(ideal);
  if (!straight) return null;
  const limit = Math.max(1, 2 * MOST_OFF * diagonal(smooth));
  const on = ideal.filter(({ x, y }) => Math.abs(y - straight.at - straight.slope * x) <= limit);
  const share = on.length / STRIPS;
  if (share < LEAST_SHARE) return null;
  const line = robustLine(on);
  if (!line) return null;
  const off = Math.sqrt(on.reduce((sum, { x, y }) => sum + (y - line.at - line.slope * x) ** 2, 0) / on.length);
  if (off > MOST_OFF * diagonal(smooth)) return null;
  const [left, right] = [stripAt(on[0]?.k ?? 0), stripAt(on.at(-1)?.k ?? 0)];
  const gap = Math.max(...on.slice(1).map(({ k }, i) => k - (on[i]?.k ?? 0) - 1), on[0]?.k ?? 0, STRIPS - 1 - (on.at(-1)?.k ?? 0)) / STRIPS;
  const end = (x: number): Point => [x * scale, (at + slope * x) * scale];
  const sides = roughness(brightness, width, height, at, slope);
  return {
    a: end(left),
    b: end(right),
    // neighbouring strips see the same waves or trees: as if every fourth counted
    sdPx: scale * Math.max(LEAST_SD_PX, off / Math.sqrt(Math.max(1, on.length / 4))),
    share,
    gap,
    off: off / diagonal(smooth),
    ...sides,
    rival: rivalOf(steps, width, height, { at, slope, sign: start.sign }),
  };
}

/** For each strip and row, how much brightness steps downwards there, clipped; 0 where it is nothing. */
function stripSteps(brightness: Float32Array, width: number, height: number): Float32Array {
  const means = new Float32Array(STRIPS * height);
  for (let k = 0; k < STRIPS; k += 1) {
    const [from, to] = [Math.round((k / STRIPS) * width), Math.round(((k + 1) / STRIPS) * width)];
    for (let y = 0; y < height; y += 1) {
      let sum = 0;
      for (let x = from; x < to; x += 1) sum += brightness[y * width + x] as number;
      means[k * height + y] = sum / (to - from);
    }
  }
  const steps = new Float32Array(STRIPS * height);
  for (let k = 0; k < STRIPS; k += 1)
    for (let y = ROWS; y + ROWS < height; y += 1) {
      let [above, below] = [0, 0];
      for (let r = 1; r <= ROWS; r += 1) {
        above += means[k * height + y - r] as number;
        below += means[k * height + y + r - 1] as number;
      }
      const step = (below - above) / ROWS;
      steps[k * height + y] = Math.abs(step) < LEAST_STEP ? 0 : Math.max(-MOST_STEP, Math.min(MOST_STEP, step));
    }
  return steps;
}

interface Line {
  readonly at: number;
  readonly slope: number;
  readonly sign: number;
}

/** Sum of steps along a line, both ways of stepping apart. */
function sumAlong(steps: Float32Array, width: number, height: number, at: number, slope: number): number {
  let sum = 0;
  for (let k = 0; k < STRIPS; k += 1) {
    const y = Math.round(at + slope * ((k + 0.5) / STRIPS) * width);
    if (y >= 0 && y < height) sum += steps[k * height + y] as number;
  }
  return sum;
}

/** The line along which brightness steps most, one way. */
function steepest(steps: Float32Array, width: number, height: number): Line | null {
  let best: (Line & { readonly value: number }) | null = null;
  const most = Math.tan((MOST_SLOPE * Math.PI) / 180);
  // in most rows of most strips nothing steps
  const stepping = Array.from({ length: STRIPS }, (_, k) => {
    const rows = Int32Array.from({ length: height }, (_row, y) => y).filter((y) => steps[k * height + y] !== 0);
    return { rows, by: Float32Array.from(rows, (y) => steps[k * height + y] as number) };
  });
  // neighbouring slopes are a row and a half apart at the sides
  const turns = Math.ceil((most * width) / 3);
  for (let t = -turns; t <= turns; t += 1) {
    const slope = (most * t) / turns;
    // sums along all lines of a slope at once, by the row of their middle
    const sums = new Float32Array(height);
    for (let k = 0; k < STRIPS; k += 1) {
      const down = Math.round(slope * ((k + 0.5) / STRIPS - 0.5) * width);
      const { rows, by } = stepping[k] as { rows: Int32Array; by: Float32Array };
      for (let i = 0; i < rows.length; i += 1) {
        const middle = (rows[i] as number) - down;
        if (middle >= 0 && middle < height) sums[middle] = (sums[middle] as number) + (by[i] as number);
      }
    }
    for (let middle = ROWS; middle < height - ROWS; middle += 1) {
      const value = sums[middle] as number;
      if (!best || Math.abs(value) > best.value)
        best = { at: middle - (slope * width) / 2, slope, sign: Math.sign(value), value: Math.abs(value) };
    }
  }
  return best && best.value > STRIPS * LEAST_STEP ? best : null;
}

/** The best line elsewhere and of the same way, as a share of this one. */
function rivalOf(steps: Float32Array, width: number, height: number, { at, slope, sign }: Line): number {
  const own = Math.abs(sumAlong(steps, width, height, at, slope));
  let most = 0;
  for (let by = -height; by < height; by += 1) {
    if (Math.abs(by) < 4 * ROWS) continue;
    for (const turn of [-0.02, -0.01, 0, 0.01, 0.02]) {
      const value = sumAlong(steps, width, height, at + by - (turn * width) / 2, slope + turn);
      most = Math.max(most, Math.abs(value) * (Math.sign(value) === sign ? 1 : 0.8));
    }
  }
  return own === 0 ? 1 : most / own;
}

/** Where a strip's step has its middle near a row, px; null where it steps the other way or not at all. */
function settled(steps: Float32Array, height: number, k: number, near: number, reach: number, sign: number): number | null {
  let [sum, moment] = [0, 0];
  for (let y = Math.max(0, Math.floor(near - reach - 1)); y <= Math.min(height - 1, Math.ceil(near + reach + 1)); y += 1) {
    if (Math.abs(y - near) > reach + 1) continue;
    const step = Math.max(0, sign * (steps[k * height + y] as number));
    sum += step * step;
    moment += step * step * y;
  }
  return sum === 0 ? null : moment / sum;
}

/** A line through points, what lies far off it left out. */
function robustLine(points: readonly { readonly x: number; readonly y: number }[]): { readonly at: number; readonly slope: number } | null {
  let kept = points;
  let line: { readonly at: number; readonly slope: number } | null = null;
  for (let round = 0; round < 6; round += 1) {
    if (kept.length < STRIPS / 4) return null;
    const n = kept.length;
    const [mx, my] = [kept.reduce((s, p) => s + p.x, 0) / n, kept.reduce((s, p) => s + p.y, 0) / n];
    const [xx, xy] = [kept.reduce((s, p) => s + (p.x - mx) ** 2, 0), kept.reduce((s, p) => s + (p.x - mx) * (p.y - my), 0)];
    const slope = xy / xx;
    line = { at: my - slope * mx, slope };
    const { at } = line;
    const offs = points.map((p) => Math.abs(p.y - at - slope * p.x)).sort((p, q) => p - q);
    const limit = Math.max(0.3, 3 * (offs[offs.length >> 1] as number));
    kept = points.filter((p) => Math.abs(p.y - at - slope * p.x) <= limit);
  }
  return line;
}

/** How rough both sides are close to the line: mean step of brightness from pixel to pixel. */
function roughness(
  brightness: Float32Array,
  width: number,
  height: number,
  at: number,
  slope: number,
): { readonly rough: number; readonly smooth: number } {
  const reach = Math.round(height * 0.12);
  const side = (sign: 1 | -1): number => {
    let [sum, count] = [0, 0];
    for (let x = 4; x + 4 < width; x += 3)
      for (let d = 6; d < reach; d += 3) {
        const y = Math.round(at + slope * x) + sign * d;
        if (y < 1 || y >= height - 1) continue;
        sum += Math.abs((brightness[y * width + x + 3] as number) - (brightness[y * width + x] as number));
        count += 1;
      }
    return count === 0 ? 1 : sum / count;
  };
  const [p, q] = [side(-1), side(1)];
  return { rough: Math.max(p, q), smooth: Math.min(p, q) };
}
