import { farthestCornerPx, invertGrowing, LensFoldsError, requireGrowing, reachGrowing, type LensMap } from './lens-map';
import { diagonal, type Point, type Size } from '../picture/point';

/** A lens given by one function of the radius, in half diagonals of the picture, in whichever direction it is closed. */
export interface RadialFunction {
  /** Ideal radius -> picture radius, or the reverse, see `direction`. */
  readonly f: (r: number) => number;
  readonly direction: 'ideal-to-picture' | 'picture-to-ideal';
  readonly detail: string;
}

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
  const closed = (x: number, y: number, out: Float64Array, limit: number): boolean => {
    const [dx, dy] = [x - cx, y - cy];
    const r = Math.sqrt(dx * dx + dy * dy) / half;
    if (r > limit) return false;
    const scale = r < 1e-12 ? 1 : fn.f(r) / r;
    out[0] = cx + dx * scale;
    out[1] = cy + dy * scale;
    return true;
  };
  const solved = (x: number, y: number, out: Float64Array, valueLimit: number, limit: number): boolean => {
    const [dx, dy] = [x - cx, y - cy];
    const r = Math.sqrt(dx * dx + dy * dy) / half;
    if (r > valueLimit) return false;
    const inverse = r < 1e-12 ? r : invertGrowing(fn.f, r, limit);
    if (inverse === null) return false;
    const scale = r < 1e-12 ? 1 : inverse / r;
    out[0] = cx + dx * scale;
    out[1] = cy + dy * scale;
    return true;
  };
  return {
    distort: forward
      ? (x, y, out) => closed(x, y, out, idealLimit)
      : (x, y, out) => solved(x, y, out, Math.min(idealLimit, fn.f(pictureLimit)), pictureLimit),
    undistort: forward ? (x, y, out) => solved(x, y, out, pictureLimit, idealLimit) : (x, y, out) => closed(x, y, out, pictureLimit),
    limitRadiusPx: Infinity,
    centre,
    straight: false,
  };
}
