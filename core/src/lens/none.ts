import type { Size } from '../picture/point';
import type { LensMap } from './lens-map';

/** The lens that bends nothing: ideal = picture. */
export function noLens(size: Size): LensMap {
  const same = (x: number, y: number, out: Float64Array): boolean => {
    out[0] = x;
    out[1] = y;
    return true;
  };
  return { distort: same, undistort: same, limitRadiusPx: Infinity, centre: [size.width / 2, size.height / 2], straight: true };
}
