import type { Point } from '../picture/point';

/** What is known of each pixel of a result: it is, it is empty and to be filled, or it was filled already. */
export const KNOWN = 0;
export const EMPTY = 1;
export const MADE = 2;
/** Clear in the original, or empty and to stay so: nobody copies it, and nothing is copied into it. */
export const NOTHING = 3;

/** Half the width of what goes along with a line, share of the diagonal and px at least. */
const HALF_SHARE = 0.008;
const LEAST_HALF_PX = 5;
/** How far before an empty part a line may end, share of the diagonal. */
const NEAR_SHARE = 0.1;

/** A pixel that is copied: where to, and from where. */
export type Copy = (to: number, from: number) => void;

/**
 * Goes straight on along a line into what is empty beyond the end nearest to it: everything within a few px of it is copied along it by
 * whole pixels, over again as far as the empty part goes, so that its direction is kept to the rounding.
 *
 * @param state of each pixel; what is copied becomes {@link MADE}
 * @param line its ends, px of the result
 * @param allowed whether a pixel may be copied
 * @returns how many pixels were filled
 */
export function goStraightOn(
  state: Uint8Array,
  width: number,
  height: number,
  [a, b]: readonly [Point, Point],
  allowed: (x: number, y: number) => boolean,
  copy: Copy,
): number {
  const diagonal = Math.hypot(width, height);
  const near = NEAR_SHARE * diagonal;
  const ends = [
    { from: a, to: b, before: emptyBeyond(state, width, height, a, b, near) },
    { from: b, to: a, before: emptyBeyond(state, width, height, b, a, near) },
  ].sort((p, q) => p.before - q.before);
  const end = ends[0];
  if (!end || end.before === Infinity) return 0;
  const { from, to } = end;
  const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
  const u: Point = [(to[0] - from[0]) / length, (to[1] - from[1]) / length];
  const step = wholeStep(u, length);
  if (!step) return 0;
  const half = Math.max(LEAST_HALF_PX, HALF_SHARE * diagonal);
  const done: number[] = [];
  const [left, right, top, bottom] = reach(to, u, half, width, height);
  for (let y = top; y < bottom; y += 1)
    for (let x = left; x < right; x += 1) {
      const at = y * width + x;
      if (state[at] !== EMPTY) continue;
      const [dx, dy] = [x + 0.5 - to[0], y + 0.5 - to[1]];
      const along = dx * u[0] + dy * u[1];
      if (along < -half || Math.abs(dy * u[0] - dx * u[1]) > half) continue;
      for (let n = 1; ; n += 1) {
        const [sx, sy] = [x - n * step[0], y - n * step[1]];
        // no farther back than where the line begins
        if (along - n * Math.hypot(...step) < -length - half || sx < 0 || sy < 0 || sx >= width || sy >= height) break;
        const source = sy * width + sx;
        if (state[source] !== KNOWN || !allowed(sx, sy)) continue;
        copy(at, source);
        done.push(at);
        break;
      }
    }
  for (const at of done) state[at] = MADE;
  return done.length;
}

/** How far beyond an end there is something empty, px; infinite for nowhere near. */
function emptyBeyond(state: Uint8Array, width: number, height: number, from: Point, to: Point, near: number): number {
  const length = Math.hypot(to[0] - from[0], to[1] - from[1]);
  if (!(length >= 2)) return Infinity;
  const [ux, uy] = [(to[0] - from[0]) / length, (to[1] - from[1]) / length];
  for (let t = -near / 4; t < near; t += 1) {
    const [x, y] = [Math.floor(to[0] + ux * t), Math.floor(to[1] + uy * t)];
    if (x < 0 || y < 0 || x >= width || y >= height) return Infinity;
    if (state[y * width + x] === EMPTY) return Math.max(0, t);
  }
  return Infinity;
}

/** The whole step along a direction, no longer than the line, that strays least from it; null for a line too short for any. */
function wholeStep(u: Point, length: number): readonly [number, number] | null {
  let best: readonly [number, number] | null = null;
  let least = Infinity;
  for (let l = Math.floor(length); l >= Math.max(2, length / 3); l -= 1) {
    const v = [Math.round(u[0] * l), Math.round(u[1] * l)] as const;
    // it adds up over repeats, of which a longer step needs fewer
    const strays = Math.abs(v[1] * u[0] - v[0] * u[1]) / Math.hypot(...v);
    if (strays < least) [best, least] = [v, strays];
  }
  return best;
}

/** The pixels that a band beyond an end can come to: columns and rows, from and up to. */
function reach(to: Point, u: Point, half: number, width: number, height: number): readonly [number, number, number, number] {
  const far = width + height;
  const [x, y] = [to[0] + u[0] * far, to[1] + u[1] * far];
  const low = (p: number, q: number): number => Math.max(0, Math.floor(Math.min(p, q) - 2 * half));
  const high = (p: number, q: number, most: number): number => Math.min(most, Math.ceil(Math.max(p, q) + 2 * half));
  return [low(to[0], x), high(to[0], x, width), low(to[1], y), high(to[1], y, height)];
}
