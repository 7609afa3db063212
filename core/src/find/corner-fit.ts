import type { Point } from '../picture/point';
import { largestSample, type Raster } from '../raster/raster';
import { brightnessOf, type Brightness } from './brightness';

/** Largest reach at the level on which the corner is sought, px of that level. */
const COARSE_REACH = 10;
/** Windows of the search and of the fit, px of a level, as radii. */
const SEARCH_RADIUS = 4;
const FIT_RADIUS = 7;
/** Mean squared step of brightness below which nothing is there. */
const LEAST_STEP = 2e-5;
/** The weaker direction's share of the stronger one: below it there is an edge but no corner. */
const LEAST_SHARE = 0.06;

/** Sums over a window: the gradients' outer products, and these times their positions about `at`. */
interface Window {
  readonly xx: number;
  readonly xy: number;
  readonly yy: number;
  readonly bx: number;
  readonly by: number;
  readonly weight: number;
}

function windowAt(brightness: Brightness, [cx, cy]: Point, radius: number): Window {
  let [xx, xy, yy, bx, by, weight] = [0, 0, 0, 0, 0, 0];
  for (let j = -radius; j <= radius; j += 1) {
    for (let i = -radius; i <= radius; i += 1) {
      const w = Math.exp((-2 * (i * i + j * j)) / (radius * radius));
      const [x, y] = [cx + i, cy + j];
      const gx = (brightness(x + 1, y) - brightness(x - 1, y)) / 2;
      const gy = (brightness(x, y + 1) - brightness(x, y - 1)) / 2;
      xx += w * gx * gx;
      xy += w * gx * gy;
      yy += w * gy * gy;
      bx += w * (gx * gx * i + gx * gy * j);
      by += w * (gx * gy * i + gy * gy * j);
      weight += w;
    }
  }
  return { xx, xy, yy, bx, by, weight };
}

/** Smaller and greater eigenvalue of the window's outer products, per unit of weight. */
function strengths({ xx, xy, yy, weight }: Window): readonly [number, number] {
  const mean = (xx + yy) / 2;
  const spread = Math.hypot((xx - yy) / 2, xy);
  return [(mean - spread) / weight, (mean + spread) / weight];
}

/**
 * The corner nearest to where one was pointed at, to a fraction of a px: where the edges around it meet.
 *
 * @param levels the original first, then each half the size of the one before
 * @param reachPx how far the corner may lie from `at`, picture px
 * @returns picture px; null where there is no corner
 * Source: Forstner, Gulch 1987, A fast operator for detection and precise location of distinct points, corners and centres of circular
 *   features; from memory.
 */
export function fitCorner(levels: readonly Raster[], at: Point, reachPx: number): Point | null {
  const first = levels[0];
  if (!first) return null;
  let level = 0;
  while (level + 1 < levels.length && reachPx / 2 ** level > COARSE_REACH) level += 1;
  const top = largestSample(first);
  const scaleOf = (k: number): number => (levels[k] as Raster).width / first.width;
  const brightness = (k: number): Brightness => brightnessOf(levels[k] as Raster, top);
  const coarse = scaleOf(level);
  let found = strongest(brightness(level), [at[0] * coarse, at[1] * coarse], reachPx * coarse);
  if (!found) return null;
  for (; level >= 0; level -= 1) {
    const settled = settle(brightness(level), found);
    if (!settled) return null;
    const up: number = level > 0 ? scaleOf(level - 1) / scaleOf(level) : 1;
    found = [settled[0] * up, settled[1] * up];
  }
  return Math.hypot(found[0] - at[0], found[1] - at[1]) <= reachPx * 1.2 ? found : null;
}

/** The place in reach where brightness steps most in its weaker direction; near ones are favoured. */
function strongest(brightness: Brightness, at: Point, reach: number): Point | null {
  let best: { point: Point; value: number } | null = null;
  const half = Math.ceil(reach);
  for (let j = -half; j <= half; j += 1) {
    for (let i = -half; i <= half; i += 1) {
      const far = Math.hypot(i, j) / reach;
      if (far > 1) continue;
      const point: Point = [at[0] + i, at[1] + j];
      const [weak] = strengths(windowAt(brightness, point, SEARCH_RADIUS));
      const value = weak * (1 - 0.5 * far * far);
      if (weak > LEAST_STEP && value > (best?.value ?? 0)) best = { point, value };
    }
  }
  return best?.point ?? null;
}

/** Where the edges in a window meet, in a few rounds; null where they do not. */
function settle(brightness: Brightness, from: Point): Point | null {
  let at = from;
  for (let round = 0; round < 6; round += 1) {
    const window = windowAt(brightness, at, FIT_RADIUS);
    const [weak, strong] = strengths(window);
    if (!(weak > LEAST_SHARE * strong && strong > LEAST_STEP)) return null;
    const det = window.xx * window.yy - window.xy * window.xy;
    const [dx, dy] = [(window.yy * window.bx - window.xy * window.by) / det, (window.xx * window.by - window.xy * window.bx) / det];
    if (Math.hypot(dx, dy) > FIT_RADIUS) return null;
    at = [at[0] + dx, at[1] + dy];
    if (Math.hypot(dx, dy) < 0.01) break;
  }
  return at;
}
