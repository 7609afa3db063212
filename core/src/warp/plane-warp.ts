import type { Correction } from '../correction/schema';
import { easeMap } from '../ease/ease-map';
import { following, type EaseMap } from '../ease/relief';
import { placedShim, type PlacedShim } from '../ease/shim-map';
import { lensOf } from '../lens/lens-of';
import type { LensMap } from '../lens/lens-map';
import { noLens } from '../lens/none';
import { rectCorners, type Point, type Rect, type Size } from '../picture/point';
import { turnedSize, type QuarterTurns } from '../picture/quarter-turns';
import { stanceHomography, type StanceHomography } from '../stance/stance-homography';
import { FLATNESS_PX, outlineOf } from './outline';

/** Rays farther off the lens's axis than this have no image. */
const TAN_LARGEST_ANGLE = Math.tan((85 * Math.PI) / 180);

/** Picture <-> plane for one correction: the whole chain but for crop, output size and flips. */
export interface PlaneWarp {
  readonly pictureSize: Size;
  readonly turnedSize: Size;
  readonly quarterTurns: QuarterTurns;
  readonly lens: LensMap;
  readonly stance: StanceHomography;
  /** What is eased between the plane as the stance makes it (flat) and the plane that is shown, shims included; null for nothing. */
  readonly ease: EaseMap | null;
  /** Shims that move something, and the chain as it is without any; null without. */
  readonly shimmed: { readonly shims: readonly PlacedShim[]; readonly without: PlaneWarp } | null;
  /** Plane -> picture into `out`; false where there is no image (the picture may still not reach there). px. */
  planeToPicture(x: number, y: number, out: Float64Array): boolean;
  /** Picture -> plane into `out`; false where there is no image. px. */
  pictureToPlane(x: number, y: number, out: Float64Array): boolean;
  /** Picture -> plane as it is before easing, into `out`; false where there is no image. px. */
  pictureToFlat(x: number, y: number, out: Float64Array): boolean;
  /** Picture -> ideal (turned) into `out`; false where there is no image. px. */
  pictureToIdeal(x: number, y: number, out: Float64Array): boolean;
  /** The picture's border on the plane: a closed polygon, within twice the flatness of the true curve as the lens straightened it, cut where there is no image. */
  readonly outline: readonly Point[];
  /** How far its outline may lie from the true curve at each of two divisions, px. */
  readonly flatnessPx: number;
}

/** Turned -> picture or the reverse as x' = a x + b y + c, y' = d x + e y + f. */
function turnCoefficients(size: Size, turns: 0 | 1 | 2 | 3): readonly [number, number, number, number, number, number] {
  switch (turns) {
    case 0:
      return [1, 0, 0, 0, 1, 0];
    case 1:
      return [0, -1, size.height, 1, 0, 0];
    case 2:
      return [-1, 0, size.width, 0, -1, size.height];
    case 3:
      return [0, 1, 0, -1, 0, size.width];
  }
}

/**
 * Composes the whole chain up to the plane: what the stance and easing make, then the shims, one after the other.
 *
 * @param flatnessPx of its outline
 * @throws StanceBeyondError, LensFoldsError when the correction cannot be shown
 */
export function planeWarp(correction: Correction, pictureSize: Size, flatnessPx = FLATNESS_PX): PlaneWarp {
  return shimmedWarp(withoutShims(correction, pictureSize, flatnessPx), correction);
}

function shimmedWarp(without: PlaneWarp, { ease: { shims: asked } }: Correction): PlaneWarp {
  let ease = without.ease;
  const shims: PlacedShim[] = [];
  for (const shim of asked) {
    const before = ease;
    const placed = placedShim(shim, (p) => {
      const flat = toFlat(without, p);
      return flat && (before ? mapped(before.forward)(flat) : flat);
    });
    if (!placed) continue;
    shims.push(placed);
    ease = following(ease, placed);
  }
  if (!ease || shims.length === 0) return without;
  const all = shims.reduce<EaseMap | null>((before, shim) => following(before, shim), null) as EaseMap;
  const warp: PlaneWarp = {
    ...without,
    ease,
    shimmed: { shims, without },
    planeToPicture: (x, y, out) => all.back(x, y, out) && without.planeToPicture(out[0] as number, out[1] as number, out),
    pictureToPlane: (x, y, out) => without.pictureToPlane(x, y, out) && all.forward(out[0] as number, out[1] as number, out),
    get outline() {
      // a shim that moves nothing of the picture's border leaves it exactly as it is
      const outline = shims.some(({ box }) => touches(without.outline, box)) ? outlineOf(warp) : without.outline;
      Object.defineProperty(warp, 'outline', { value: outline });
      return outline;
    },
  };
  return warp;
}

/**
 * Composes lens, quarter turns, stance, stretch and easing. The lens acts in picture space before the quarter turns, which is the same map
 * as turning first with the lens's coefficients turned along.
 *
 * @throws StanceBeyondError, LensFoldsError when the correction cannot be shown
 */
function withoutShims(correction: Correction, pictureSize: Size, flatnessPx: number): PlaneWarp {
  const lens = correction.lens.on ? lensOf(correction.lens.model, pictureSize) : noLens(pictureSize);
  const stance = stanceHomography(correction, pictureSize);
  const turns = correction.stance.quarterTurns;
  const size = turnedSize(pictureSize, turns);
  const [ta, tb, tc, td, te, tf] = turnCoefficients(pictureSize, turns);
  const back = ((4 - turns) % 4) as 0 | 1 | 2 | 3;
  const [ua, ub, uc, ud, ue, uf] = turnCoefficients(size, back);
  const [h0, h1, h2, h3, h4, h5, h6, h7, h8] = stance.toPlane;
  const [g0, g1, g2, g3, g4, g5, g6, g7, g8] = stance.toIdeal;
  const smallestW = 0.1 * stance.w0;
  const largestDepth = 1 / smallestW;
  const [cx, cy] = stance.centre;
  const largestRadiusSq = (stance.focalPx * TAN_LARGEST_ANGLE) ** 2;

  const pictureToIdeal = (x: number, y: number, out: Float64Array): boolean => {
    if (!lens.undistort(x, y, out)) return false;
    const [px, py] = [out[0] as number, out[1] as number];
    out[0] = ta * px + tb * py + tc;
    out[1] = td * px + te * py + tf;
    return true;
  };
  const pictureToFlat = (x: number, y: number, out: Float64Array): boolean => {
    if (!pictureToIdeal(x, y, out)) return false;
    const [ix, iy] = [out[0] as number, out[1] as number];
    if ((ix - cx) * (ix - cx) + (iy - cy) * (iy - cy) > largestRadiusSq) return false;
    const w = h6 * ix + h7 * iy + h8;
    if (!(w >= smallestW)) return false;
    out[0] = (h0 * ix + h1 * iy + h2) / w;
    out[1] = (h3 * ix + h4 * iy + h5) / w;
    return true;
  };
  const ease = easeMap(correction, stance, mapped(pictureToFlat));
  const warp: PlaneWarp = {
    pictureSize,
    flatnessPx,
    turnedSize: size,
    quarterTurns: turns,
    lens,
    stance,
    ease,
    shimmed: null,
    pictureToIdeal,
    pictureToFlat,
    planeToPicture(x, y, out) {
      if (ease) {
        if (!ease.back(x, y, out)) return false;
        x = out[0] as number;
        y = out[1] as number;
      }
      const w = g6 * x + g7 * y + g8;
      if (!(w > 0 && w <= largestDepth)) return false;
      const ix = (g0 * x + g1 * y + g2) / w;
      const iy = (g3 * x + g4 * y + g5) / w;
      if ((ix - cx) * (ix - cx) + (iy - cy) * (iy - cy) > largestRadiusSq) return false;
      return lens.distort(ua * ix + ub * iy + uc, ud * ix + ue * iy + uf, out);
    },
    pictureToPlane: ease ? (x, y, out) => pictureToFlat(x, y, out) && ease.forward(out[0] as number, out[1] as number, out) : pictureToFlat,
    get outline() {
      const outline = outlineOf(warp);
      Object.defineProperty(warp, 'outline', { value: outline });
      return outline;
    },
  };
  return warp;
}

/** Whether a closed polygon's border comes into a box. */
const touches = (polygon: readonly Point[], { x, y, width, height }: Rect): boolean =>
  polygon.some((p, i) => {
    const q = polygon[(i + 1) % polygon.length] as Point;
    const [left, right] = [Math.min(p[0], q[0]), Math.max(p[0], q[0])];
    const [top, bottom] = [Math.min(p[1], q[1]), Math.max(p[1], q[1])];
    if (right < x || left > x + width || bottom < y || top > y + height) return false;
    // on which side of the segment each corner of the box lies
    const sides = rectCorners({ x, y, width, height }).map(([cx, cy]) => (q[0] - p[0]) * (cy - p[1]) - (q[1] - p[1]) * (cx - p[0]));
    return Math.min(...sides) <= 0 && Math.max(...sides) >= 0;
  });

/** A map into an array as one of points: null where there is no image. */
function mapped(map: (x: number, y: number, out: Float64Array) => boolean): (p: Point) => Point | null {
  const out = new Float64Array(2);
  return ([x, y]) => (map(x, y, out) ? [out[0] as number, out[1] as number] : null);
}

/** {@link PlaneWarp.pictureToPlane} with points: null where there is no image. */
export const toPlane = (warp: PlaneWarp, point: Point): Point | null => mapped(warp.pictureToPlane)(point);

/** {@link PlaneWarp.planeToPicture} with points: null where there is no image. */
export const toPicture = (warp: PlaneWarp, point: Point): Point | null => mapped(warp.planeToPicture)(point);

/** {@link PlaneWarp.pictureToFlat} with points: null where there is no image. */
export const toFlat = (warp: PlaneWarp, point: Point): Point | null => mapped(warp.pictureToFlat)(point);

/** Flat -> plane that is shown, px; null where there is no image. */
export const eased = ({ ease }: Pick<PlaneWarp, 'ease'>, point: Point): Point | null => (ease ? mapped(ease.forward)(point) : point);

/** Plane that is shown -> flat, px; null where there is no image. */
export const uneased = ({ ease }: Pick<PlaneWarp, 'ease'>, point: Point): Point | null => (ease ? mapped(ease.back)(point) : point);

const COURSE_STEPS = 24;

/** How what is straight between two picture points runs on the plane that is shown: its ends, and points between them where it is bent. */
export function courseShown(warp: PlaneWarp, a: Point, b: Point): readonly Point[] | null {
  const [p, q] = [toFlat(warp, a), toFlat(warp, b)];
  if (!p || !q) return null;
  const steps = warp.ease ? COURSE_STEPS : 1;
  const points = Array.from({ length: steps + 1 }, (_, i) =>
    eased(warp, [p[0] + ((q[0] - p[0]) * i) / steps, p[1] + ((q[1] - p[1]) * i) / steps]),
  );
  return points.every((c) => c !== null) ? points : null;
}
