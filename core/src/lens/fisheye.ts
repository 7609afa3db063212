import type { Size } from '../picture/point';
import { invertGrowing, requireGrowing, type LensMap } from './lens-map';

/** Rays farther than this from the lens's axis have no rectilinear image. */
const LARGEST_ANGLE_RAD = (85 * Math.PI) / 180;

/**
 * Equidistant fisheye: theta_d = theta (1 + k1 theta^2 + ... + k4 theta^8); ideal = ray * sqrt(fx fy) + centre.
 * Source: Kannala, Brandt 2006, A generic camera model and calibration method; the arrangement of OpenCV `fisheye`.
 */
export function fisheyeLens(
  p: { fx: number; fy: number; cx: number; cy: number; k1: number; k2: number; k3: number; k4: number },
  _size: Size,
): LensMap {
  const focal = Math.sqrt(p.fx * p.fy);
  const f = (t: number): number => {
    const s = t * t;
    return t * (1 + s * (p.k1 + s * (p.k2 + s * (p.k3 + s * p.k4))));
  };
  requireGrowing(f, LARGEST_ANGLE_RAD, `k1 ${p.k1}, k2 ${p.k2}, k3 ${p.k3}, k4 ${p.k4}`);
  const limitD = f(LARGEST_ANGLE_RAD);
  const limitR = Math.tan(LARGEST_ANGLE_RAD);
  return {
    distort(x, y, out) {
      const [u, v] = [(x - p.cx) / focal, (y - p.cy) / focal];
      const r = Math.sqrt(u * u + v * v);
      if (r > limitR) return false;
      const scale = r < 1e-12 ? 1 : f(Math.atan(r)) / r;
      out[0] = u * scale * p.fx + p.cx;
      out[1] = v * scale * p.fy + p.cy;
      return true;
    },
    undistort(x, y, out) {
      const [u, v] = [(x - p.cx) / p.fx, (y - p.cy) / p.fy];
      const d = Math.sqrt(u * u + v * v);
      if (d > limitD) return false;
      const theta = d < 1e-12 ? d : invertGrowing(f, d, LARGEST_ANGLE_RAD);
      if (theta === null) return false;
      const scale = d < 1e-12 ? 1 : Math.tan(theta) / d;
      out[0] = u * scale * focal + p.cx;
      out[1] = v * scale * focal + p.cy;
      return true;
    },
    limitRadiusPx: limitD * Math.min(p.fx, p.fy) * (1 - 1e-9),
    centre: [p.cx, p.cy],
    straight: false,
  };
}
