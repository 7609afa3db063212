import type { Shim } from '../correction/schema';
import type { Point, Rect } from '../picture/point';
import { rectAround } from '../picture/point';
import type { EaseMap } from './relief';
import { solveShim } from './shim-solve';
import { displacementAt, shiftAt, type ShimSpline } from './shim-spline';

/** A shim as it lies on the plane and acts there. */
export interface PlacedShim extends EaseMap {
  readonly shim: Shim;
  /** Its box, plane px; outside exactly nothing moves. */
  readonly box: Rect;
  /** How much of what is asked is done, 0..1: less than 1 where more would fold. */
  readonly share: number;
  /** What part its greatest local enlargement and reduction are, as areas: result over source. */
  readonly largestArea: number;
  readonly smallestArea: number;
}

/** A part of the result is never larger or smaller than its source by more than this, as an area: it never folds. */
export const MOST_AREA = 5;
/** So often a cell the area is tried along each side; between, it was found up to 6 % beyond the limit (the test holds it to 10). */
const TRIED_A_CELL = 4;
const SETTLED_PX = 1e-9;
const MOST_STEPS = 40;

/** What became of what was asked of a shim. */
interface Solved {
  readonly spline: ShimSpline;
  readonly share: number;
  readonly largestArea: number;
  readonly smallestArea: number;
}

/** A net that depends on nothing but its shim is solved once. */
const solved = new WeakMap<Shim, Solved>();

/**
 * A shim on the plane; null where its middle has no image, or it is not used.
 *
 * @param toPlane picture -> plane before this shim, px
 */
export function placedShim(shim: Shim, toPlane: (p: Point) => Point | null): PlacedShim | null {
  const middle = shim.used ? toPlane(shim.at as Point) : null;
  if (!middle) return null;
  const box = rectAround(middle, shim.width, shim.height);
  const { spline, share, largestArea, smallestArea } = solved.get(shim) ?? solvedOn(shim, box, toPlane);
  return { shim, box, share, largestArea, smallestArea, ...mapsOf(spline, box) };
}

function solvedOn(shim: Shim, box: Rect, toPlane: (p: Point) => Point | null): Solved {
  const inBox = ([x, y]: Point): Point => [x - box.x, y - box.y];
  const fromMiddle = ([x, y]: Point): Point => [x + box.width / 2, y + box.height / 2];
  const held = shim.holds.map(({ from, to, nail }) => ({ from: fromMiddle(from), to: fromMiddle(to), nail }));
  const lines = shim.lines.flatMap(({ kind, points }) => {
    const on = points.map(toPlane);
    return on.every((p) => p !== null) ? [{ kind, points: on.map(inBox) }] : [];
  });
  const spline = solveShim(shim.crossings, box.width, box.height, held, lines);
  const areas = unfolded(spline);
  for (const values of [spline.dx, spline.dy]) if (areas.share < 1) values.forEach((v, i) => (values[i] = v * areas.share));
  const all = { spline, ...areas };
  if (shim.lines.length === 0) solved.set(shim, all);
  return all;
}

/** The largest share of a spline that keeps local areas within the limit, and what they come to. */
function unfolded(spline: ShimSpline): Omit<Solved, 'spline'> {
  const { cells, stepX, stepY } = spline;
  const count = cells * TRIED_A_CELL;
  const slopes = new Float64Array((count + 1) * (count + 1) * 2);
  const at = new Float64Array(6);
  for (let j = 0, k = 0; j <= count; j += 1)
    for (let i = 0; i <= count; i += 1, k += 2) {
      displacementAt(spline, (i / TRIED_A_CELL) * stepX, (j / TRIED_A_CELL) * stepY, at);
      const [xx, xy, yx, yy] = [at[2] as number, at[3] as number, at[4] as number, at[5] as number];
      slopes[k] = xx + yy;
      slopes[k + 1] = xx * yy - xy * yx;
    }
  const areas = (share: number): readonly [number, number] => {
    let [least, most] = [1, 1];
    for (let k = 0; k < slopes.length; k += 2) {
      const area = 1 + share * (slopes[k] as number) + share * share * (slopes[k + 1] as number);
      if (area < least) least = area;
      if (area > most) most = area;
    }
    return [least, most];
  };
  const fits = (share: number): boolean => {
    const [least, most] = areas(share);
    return least >= 1 / MOST_AREA && most <= MOST_AREA;
  };
  let share = 1;
  if (!fits(1)) {
    let [low, high] = [0, 1];
    for (let i = 0; i < 40; i += 1) {
      const middle = (low + high) / 2;
      if (fits(middle)) low = middle;
      else high = middle;
    }
    share = low;
  }
  const [least, most] = areas(share);
  return { share, largestArea: 1 / least, smallestArea: 1 / most };
}

function mapsOf(spline: ShimSpline, box: Rect): EaseMap {
  const { x: left, y: top, width, height } = box;
  const at = new Float64Array(6);
  const outside = (u: number, v: number): boolean => !(u > 0 && v > 0 && u < width && v < height);
  /** Where a place of the box comes from, px from its corner. */
  const from = (u: number, v: number, out: Float64Array): void => {
    shiftAt(spline, u, v, out);
    out[0] = u + (out[0] as number);
    out[1] = v + (out[1] as number);
  };
  const starts = startsOf(spline, from);
  return {
    back(x, y, out) {
      const [u, v] = [x - left, y - top];
      out[0] = x;
      out[1] = y;
      if (outside(u, v)) return true;
      shiftAt(spline, u, v, out);
      out[0] = x + (out[0] as number);
      out[1] = y + (out[1] as number);
      return true;
    },
    forward(x, y, out) {
      const [u, v] = [x - left, y - top];
      out[0] = x;
      out[1] = y;
      // the border stays and nothing folds: what lies outside stays outside
      if (outside(u, v)) return true;
      let [p, q] = starts(u, v);
      p = inside(p, width);
      q = inside(q, height);
      let off = Infinity;
      let step = 1;
      let [lastP, lastQ] = [p, q];
      let [dp, dq] = [0, 0];
      for (let i = 0; i < MOST_STEPS; i += 1) {
        displacementAt(spline, p, q, at);
        const ex = u - p - (at[0] as number);
        const ey = v - q - (at[1] as number);
        const next = Math.hypot(ex, ey);
        if (next < SETTLED_PX) break;
        if (next >= off && step > 1 / 64) {
          // too far: half the step
          step /= 2;
          p = inside(lastP + dp * step, width);
          q = inside(lastQ + dq * step, height);
          continue;
        }
        off = next;
        const [a, b, c, d] = [1 + (at[2] as number), at[3] as number, at[4] as number, 1 + (at[5] as number)];
        const det = a * d - b * c;
        [dp, dq] = [(d * ex - b * ey) / det, (a * ey - c * ex) / det];
        [lastP, lastQ, step] = [p, q, 1];
        p = inside(p + dp, width);
        q = inside(q + dq, height);
      }
      out[0] = left + p;
      out[1] = top + q;
      return true;
    },
  };
}

const inside = (value: number, length: number): number => Math.min(length, Math.max(0, value));

/** Where to begin looking for what lies at a place: the nearest of places half a cell apart. */
function startsOf(
  { cells, stepX, stepY }: ShimSpline,
  from: (u: number, v: number, out: Float64Array) => void,
): (u: number, v: number) => Point {
  let known: Float64Array | null = null;
  const count = cells * 2;
  const out = new Float64Array(2);
  return (u, v) => {
    from(u, v, out);
    const [du, dv] = [(out[0] as number) - u, (out[1] as number) - v];
    // mostly it lies about as far off on the other side
    if (Math.abs(du) < stepX / 4 && Math.abs(dv) < stepY / 4) return [u - du, v - dv];
    if (!known) {
      known = new Float64Array((count + 1) * (count + 1) * 2);
      for (let j = 0, k = 0; j <= count; j += 1)
        for (let i = 0; i <= count; i += 1, k += 2) {
          from((i * stepX) / 2, (j * stepY) / 2, out);
          known.set(out, k);
        }
    }
    let [best, least] = [0, Infinity];
    for (let k = 0; k < known.length; k += 2) {
      const d = ((known[k] as number) - u) ** 2 + ((known[k + 1] as number) - v) ** 2;
      if (d < least) [best, least] = [k >> 1, d];
    }
    return [((best % (count + 1)) * stepX) / 2, (Math.floor(best / (count + 1)) * stepY) / 2];
  };
}
