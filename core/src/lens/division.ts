import type { Size } from '../picture/point';
import { LensFoldsError, type LensMap } from './lens-map';
import { radialMap } from './radial-map';

/**
 * Division model: r_ideal = r / (1 + l1 r^2 + l2 r^4), r the picture radius in half diagonals; centre cx, cy in picture px.
 * Source: Fitzgibbon 2001, Simultaneous linear estimation of multiple view geometry and lens distortion.
 */
export function divisionLens(p: { cx: number; cy: number; l1: number; l2: number }, size: Size): LensMap {
  const detail = `l1 ${p.l1}, l2 ${p.l2}`;
  const f = (r: number): number => {
    const d = 1 + p.l1 * r * r + p.l2 * r ** 4;
    if (!(d > 0)) throw new LensFoldsError(detail);
    return r / d;
  };
  return radialMap({ f, direction: 'picture-to-ideal', detail }, [p.cx, p.cy], size);
}
