import { diagonal, type Point, type Size } from '../picture/point';
import type { LensMap } from './lens-map';

/** One point of a distortion curve. */
export interface CurvePoint {
  /** Image height: distance from the lens's centre in the picture, percent of the half diagonal. */
  readonly height: number;
  /** Local geometric distortion there, percent, positive outwards (pincushion). */
  readonly percent: number;
}

/** The curve's formula as it is written beside it. */
export const DISTORTION_FORMULA = 'D = (r\u2032 \u2212 r) / r \u00b7 100 %';

const POINTS = 60;

/**
 * The amount of distortion against image height, drawn out to the farthest corner: D = (r' - r) / r, r' the height in the picture, r the
 * height that the same point has in a picture without distortion and of the same scale at the centre. Figures for television describe
 * the bend of one line and are about half as large.
 *
 * @returns points from near the centre outwards; ends where the lens has no image
 * Source: ISO 17850:2015, Digital cameras, geometric distortion: local geometric distortion (from memory).
 */
export function distortionCurve(lens: LensMap, size: Size): CurvePoint[] {
  const half = diagonal(size) / 2;
  const [cx, cy] = lens.centre;
  const corners: readonly Point[] = [
    [0, 0],
    [size.width, 0],
    [size.width, size.height],
    [0, size.height],
  ];
  const away = ([x, y]: Point): number => Math.hypot(x - cx, y - cy);
  const corner = corners.reduce((p, q) => (away(q) > away(p) ? q : p));
  const out = new Float64Array(2);
  const points: CurvePoint[] = [];
  for (let i = 1; i <= POINTS; i += 1) {
    const share = i / POINTS;
    const [dx, dy] = [(corner[0] - cx) * share, (corner[1] - cy) * share];
    if (!lens.undistort(cx + dx, cy + dy, out)) break;
    const seen = Math.hypot(dx, dy);
    const straight = Math.hypot((out[0] as number) - cx, (out[1] as number) - cy);
    points.push({ height: (seen / half) * 100, percent: ((seen - straight) / straight) * 100 });
  }
  return points;
}

/**
 * Television distortion of a picture: how far the corner of the top side lies off its middle, in percent of the picture's height, as the
 * lens shows a straight line that touches there; positive for pincushion.
 * @returns null where a corner has no image
 */
export function televisionDistortion(lens: LensMap, size: Size): number | null {
  const out = new Float64Array(2);
  // the straight line whose image has its middle at the top of the picture
  if (!lens.undistort(size.width / 2, 0, out)) return null;
  const y = out[1] as number;
  if (!lens.undistort(0, 0, out)) return null;
  const x = out[0] as number;
  return lens.distort(x, y, out) ? (-(out[1] as number) / size.height) * 100 : null;
}
