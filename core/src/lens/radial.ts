import type { Size } from '../picture/point';
import type { LensMap } from './lens-map';
import { radialMap } from './radial-map';

/** Radial polynomial: r_picture = r (1 + k1 r^2 + k2 r^4), r the ideal radius in half diagonals; centre cx, cy in picture px. */
export const radialLens = (p: { cx: number; cy: number; k1: number; k2: number }, size: Size): LensMap =>
  radialMap(
    { f: (r) => r * (1 + r * r * (p.k1 + p.k2 * r * r)), direction: 'ideal-to-picture', detail: `k1 ${p.k1}, k2 ${p.k2}` },
    [p.cx, p.cy],
    size,
  );
