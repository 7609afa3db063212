import type { Size } from '../picture/point';
import { farthestCornerPx, LensFoldsError, requireGrowing, reachGrowing, roughInverse, slopeAt, type LensMap } from './lens-map';

/** Parameters as in OpenCV's `calib3d`, but cx, cy in picture space (pixel centres at .5). */
export interface BrownConradyParameters {
  readonly fx: number;
  readonly fy: number;
  readonly cx: number;
  readonly cy: number;
  readonly k1: number;
  readonly k2: number;
  readonly p1: number;
  readonly p2: number;
  readonly k3: number;
}

/**
 * Brown-Conrady lens: polynomial with tangential terms on ray coordinates; ideal = ray * sqrt(fx fy) + centre.
 * Source: Brown 1971, Close-range camera calibration; the arrangement of OpenCV `projectPoints`.
 */
export function brownConradyLens(p: BrownConradyParameters, size: Size): LensMap {
  const focal = Math.sqrt(p.fx * p.fy);
  const radial = (r: number): number => r * (1 + r * r * (p.k1 + r * r * (p.k2 + r * r * p.k3)));
  const detail = `k1 ${p.k1}, k2 ${p.k2}, k3 ${p.k3}`;
  const corner = farthestCornerPx([p.cx, p.cy], size) / focal;
  const idealCorner = reachGrowing(radial, corner, corner * 0.5);
  if (idealCorner === null) throw new LensFoldsError(detail);
  const limit = 1.02 * idealCorner;
  requireGrowing(radial, limit, detail);
  const limitSq = limit * limit;
  const slope = slopeAt(radial, limit);
  const rough = roughInverse(radial, limit);
  const bend = (x: number, y: number, out: Float64Array): void => {
    const r2 = x * x + y * y;
    const k = 1 + r2 * (p.k1 + r2 * (p.k2 + r2 * p.k3));
    out[0] = x * k + 2 * p.p1 * x * y + p.p2 * (r2 + 2 * x * x);
    out[1] = y * k + p.p1 * (r2 + 2 * y * y) + 2 * p.p2 * x * y;
  };
  const distort = (x: number, y: number, out: Float64Array): boolean => {
    const [u, v] = [(x - p.cx) / focal, (y - p.cy) / focal];
    const squared = u * u + v * v;
    if (squared <= limitSq) bend(u, v, out);
    else {
      const r = Math.sqrt(squared);
      bend((u * limit) / r, (v * limit) / r, out);
      out[0] = (out[0] as number) + (u / r) * (r - limit) * slope;
      out[1] = (out[1] as number) + (v / r) * (r - limit) * slope;
    }
    out[0] = (out[0] as number) * p.fx + p.cx;
    out[1] = (out[1] as number) * p.fy + p.cy;
    return true;
  };
  const undistort = (x: number, y: number, out: Float64Array): boolean => {
    const [tx, ty] = [(x - p.cx) / p.fx, (y - p.cy) / p.fy];
    const rd = Math.hypot(tx, ty);
    const start = rough(rd);
    let [u, v] = rd < 1e-12 ? [tx, ty] : [(tx * start) / rd, (ty * start) / rd];
    const h = 1e-6;
    for (let i = 0; i < 30; i += 1) {
      bend(u, v, out);
      const [ex, ey] = [(out[0] as number) - tx, (out[1] as number) - ty];
      if (Math.abs(ex) + Math.abs(ey) < 1e-13) break;
      bend(u + h, v, out);
      const [ax, ay] = [((out[0] as number) - tx - ex) / h, ((out[1] as number) - ty - ey) / h];
      bend(u, v + h, out);
      const [bx, by] = [((out[0] as number) - tx - ex) / h, ((out[1] as number) - ty - ey) / h];
      const det = ax * by - bx * ay;
      if (!(Math.abs(det) > 1e-9)) return false;
      u -= (ex * by - ey * bx) / det;
      v -= (ey * ax - ex * ay) / det;
    }
    if (!(u * u + v * v <= limitSq)) return false;
    out[0] = u * focal + p.cx;
    out[1] = v * focal + p.cy;
    return true;
  };
  return { distort, undistort, limitRadiusPx: Infinity, centre: [p.cx, p.cy], straight: false };
}
