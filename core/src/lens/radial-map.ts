import { farthestCornerPx, invertGrowing, LensFoldsError, requireGrowing, reachGrowing, slopeAt, type LensMap } from './lens-map';
import { diagonal, type Point, type Size } from '../picture/point';

/** A lens given by one function of the radius, in half diagonals of the picture, in whichever direction it is closed. */
export interface RadialFunction {
  /** Ideal radius -> picture radius, or the reverse, see `direction`. */
  readonly f: (r: number) => number;
  readonly direction: 'ideal-to-picture' | 'picture-to-ideal';
  readonly detail: string;
}

/** Beyond a limit a function goes straight on. */
const goingOn =
  (limit: number, value: number, slope: number, radius: (r: number) => number | null) =>
  (r: number): number | null =>
    r > limit ? value + slope * (r - limit) : radius(r);

/** A function that has nearly stopped growing would go on at once to infinity. */
const LEAST_SLOPE = 0.05;

/** Lens map about `centre` (picture px) from a radial function; the other direction is solved. */
export function radialMap(fn: RadialFunction, centre: Point, size: Size): LensMap {
  const half = diagonal(size) / 2;
  const cornerR = farthestCornerPx(centre, size) / half;
  const forward = fn.direction === 'ideal-to-picture';
  const idealCorner = forward ? reachGrowing(fn.f, cornerR, cornerR * 0.5) : fn.f(cornerR);
  if (idealCorner === null || !(idealCorner > 0)) throw new LensFoldsError(fn.detail);
  const idealLimit = 1.02 * idealCorner;
  let pictureLimit = cornerR;
  if (forward) {
    requireGrowing(fn.f, idealLimit, fn.detail);
    pictureLimit = fn.f(idealLimit);
  } else {
    requireGrowing(fn.f, cornerR, fn.detail);
    while (fn.f(pictureLimit) < idealLimit && pictureLimit < cornerR * 1.2 && fn.f(pictureLimit * 1.002) > fn.f(pictureLimit))
      pictureLimit *= 1.002;
  }
  const [cx, cy] = centre;
  const along = (x: number, y: number, out: Float64Array, radius: (r: number) => number | null): boolean => {
    const [dx, dy] = [x - cx, y - cy];
    const r = Math.sqrt(dx * dx + dy * dy) / half;
    const moved = r < 1e-12 ? r : radius(r);
    if (moved === null) return false;
    const scale = r < 1e-12 ? 1 : moved / r;
    out[0] = cx + dx * scale;
    out[1] = cy + dy * scale;
    return true;
  };
  const closed = (r: number): number => fn.f(r);
  const solved =
    (limit: number) =>
    (r: number): number | null =>
      invertGrowing(fn.f, r, limit);
  const within =
    (limit: number, radius: (r: number) => number | null) =>
    (r: number): number | null =>
      r > limit ? null : radius(r);
  const solvedLimit = Math.min(idealLimit, fn.f(pictureLimit));
  const onward = forward
    ? goingOn(idealLimit, fn.f(idealLimit), slopeAt(fn.f, idealLimit), closed)
    : goingOn(solvedLimit, pictureLimit, 1 / Math.max(LEAST_SLOPE, slopeAt(fn.f, pictureLimit)), solved(pictureLimit));
  const back = forward ? within(pictureLimit, solved(idealLimit)) : within(pictureLimit, closed);
  return {
    distort: (x, y, out) => along(x, y, out, onward),
    undistort: (x, y, out) => along(x, y, out, back),
    limitRadiusPx: Infinity,
    centre,
    straight: false,
  };
}
