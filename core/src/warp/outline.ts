import type { EaseMap } from '../ease/relief';
import type { LensMap } from '../lens/lens-map';
import { clipPolygon } from '../picture/polygon';
import type { Point, Size } from '../picture/point';
import { turnPoint, type QuarterTurns } from '../picture/quarter-turns';
import type { StanceHomography } from '../stance/stance-homography';

const START_STEPS = 16;
const DEEPEST = 7;
/** A border with more points than this has been divided along a lens's curve. */
const MANY_POINTS = 40;
/** How far each of two divisions lets a polygon lie from the true curve, px. */
export const FLATNESS_PX = 0.01;
/** The same for what is looked at while it moves: a third of the points where a lens and an easing bend the sides. */
export const NEAR_FLATNESS_PX = 0.25;
/** Far out, where a fisheye's pixels are spread over hundreds, the same as a share of the distance. */
const FAR_FLATNESS = 1e-5;
/** Slightly inside the limits at which a point has no image any more, so that the cut itself still has one. */
const INSIDE = 1 + 1e-6;

/** What an outline follows from. */
interface Outlined {
  readonly pictureSize: Size;
  readonly quarterTurns: QuarterTurns;
  readonly lens: LensMap;
  readonly stance: StanceHomography;
  readonly ease: EaseMap | null;
  readonly flatnessPx: number;
}

/**
 * The picture's border on the plane as a closed polygon. Sides are divided until the polygon lies within twice the flatness
 * of the true curve before the stance enlarges it (far out within 2e-5 of the distance);
 * parts without an image (too far off the aim or off the lens's axis) are cut away.
 */
export function outlineOf({ pictureSize, quarterTurns, lens, stance, ease, flatnessPx }: Outlined): Point[] {
  const m = stance.toPlane;
  const flat = ([x, y]: Point): Point => {
    const w = m[6] * x + m[7] * y + m[8];
    return [(m[0] * x + m[1] * y + m[2]) / w, (m[3] * x + m[4] * y + m[5]) / w];
  };
  let ideal = borderOf(lens, pictureSize, flatnessPx).map((p) => turnPoint(p, pictureSize, quarterTurns));
  ideal = clipPolygon(ideal, ([x, y]) => m[6] * x + m[7] * y + m[8] - 0.1 * stance.w0 * INSIDE);
  const farthest = stance.focalPx * Math.tan((85 * Math.PI) / 180);
  if (ideal.some(([x, y]) => Math.hypot(x - stance.centre[0], y - stance.centre[1]) > farthest))
    ideal = clipToDisc(ideal, stance.centre, farthest);
  if (!ease) return ideal.map(flat);
  // straight sides bend: divided again, unless the lens has done so
  const out = new Float64Array(2);
  const bent = (p: Point): Point => (ease.forward(...flat(p), out) ? [out[0] as number, out[1] as number] : flat(p));
  const steps = ideal.length > MANY_POINTS ? 1 : START_STEPS;
  return divided(ideal, bent, DEEPEST, steps, flatnessPx);
}

/** Borders by flatness and lens: where it puts them does not depend on the stance, and takes the longest. */
const borders = new Map<number, WeakMap<LensMap, readonly Point[]>>();

/** The picture's border as its lens straightens it, before quarter turns, cut where the lens has no image; px. */
function borderOf(lens: LensMap, { width, height }: Size, flatnessPx: number): readonly Point[] {
  const byLens = borders.get(flatnessPx) ?? new WeakMap<LensMap, readonly Point[]>();
  borders.set(flatnessPx, byLens);
  const known = byLens.get(lens);
  if (known) return known;
  let border: Point[] = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ];
  if (Number.isFinite(lens.limitRadiusPx)) border = clipToDisc(border, lens.centre, lens.limitRadiusPx);
  const out = new Float64Array(2);
  const toIdeal = ([x, y]: Point): Point => {
    if (lens.undistort(x, y, out)) return [out[0] as number, out[1] as number];
    // a border point just outside the lens's range: pull it inwards
    const [cx, cy] = lens.centre;
    for (let s = 1 - 1e-7; s > 0.9; s -= 1e-4) {
      if (lens.undistort(cx + (x - cx) * s, cy + (y - cy) * s, out)) return [out[0] as number, out[1] as number];
    }
    return [x, y];
  };
  const ideal = divided(border, toIdeal, lens.straight ? 0 : DEEPEST, START_STEPS, flatnessPx);
  byLens.set(lens, ideal);
  return ideal;
}

/** A closed polygon through a map: each side in steps, and these halved where the map bends by more than the flatness. */
function divided(polygon: readonly Point[], map: (p: Point) => Point, deepest: number, startSteps: number, flatnessPx: number): Point[] {
  // what stays straight needs its ends only
  const steps = deepest === 0 ? 1 : startSteps;
  const ends = polygon.map(map);
  const points: Point[] = [];
  for (const [i, from] of polygon.entries()) {
    const next = (i + 1) % polygon.length;
    const to = polygon[next] as Point;
    const at = (t: number): Point => [from[0] + (to[0] - from[0]) * t, from[1] + (to[1] - from[1]) * t];
    const visit = (t0: number, p0: Point, t1: number, p1: Point, depth: number): void => {
      if (depth > 0) {
        const middle = (t0 + t1) / 2;
        const p = map(at(middle));
        const flat = Math.max(flatnessPx, FAR_FLATNESS * Math.hypot(p[0], p[1]));
        if (Math.hypot(p[0] - (p0[0] + p1[0]) / 2, p[1] - (p0[1] + p1[1]) / 2) > flat) {
          visit(t0, p0, middle, p, depth - 1);
          visit(middle, p, t1, p1, depth - 1);
          return;
        }
      }
      points.push(p0);
    };
    let p0 = ends[i] as Point;
    for (let k = 1; k <= steps; k += 1) {
      const p1 = k === steps ? (ends[next] as Point) : map(at(k / steps));
      visit((k - 1) / steps, p0, k / steps, p1, deepest);
      p0 = p1;
    }
  }
  return points;
}

function clipToDisc(points: readonly Point[], [cx, cy]: Point, radius: number): Point[] {
  let kept: Point[] = [...points];
  const SIDES = 256;
  for (let i = 0; i < SIDES; i += 1) {
    const [nx, ny] = [Math.cos((2 * Math.PI * i) / SIDES), Math.sin((2 * Math.PI * i) / SIDES)];
    const limit = radius * Math.cos(Math.PI / SIDES);
    kept = clipPolygon(kept, ([x, y]) => limit - (nx * (x - cx) + ny * (y - cy)));
  }
  return kept;
}
