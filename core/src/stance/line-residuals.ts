import { apply3, multiply3, rotationZ, type Mat3, type Vec3 } from '../linear/mat3';
import type { Attitude } from './attitude';
import type { TrueLine } from './true-lines';
import { worldToCamera } from './world-direction';

/** A camera as the solver moves it: attitude in degrees, focal length and optical centre in ideal px. */
export interface SeenCamera extends Attitude {
  readonly focalPx: number;
  readonly centreX: number;
  readonly centreY: number;
}

/**
 * How far lines are off under a camera, in deviations of their pointing: for plumb, level and return lines half the difference of their
 * ends' signed distances from the line through their middle and their vanishing point, times the square root of two, so that its deviation
 * equals the pointing error; for eye lines the distance of each end from the horizon (two numbers). Weighted by each line's length weight.
 *
 * Source: within 1.5 % of exact maximum likelihood (docs/decisions/geometry.md).
 */
export function lineResiduals(lines: readonly TrueLine[], camera: SeenCamera, facing: Mat3): number[] {
  const toCamera = worldToCamera(facing, camera);
  const { focalPx: f, centreX: cx, centreY: cy } = camera;
  const residuals: number[] = [];
  for (const { kind, a, b, statedRad, weight, direction, sd } of lines) {
    const scale = weight / sd;
    if (kind === 'eye') {
      // the horizon itself: K^-T R^T e_y, turned by the stated angle about its middle
      const normal = apply3(multiply3(toCamera, rotationZ(-statedRad)), [0, 1, 0]);
      const l: Vec3 = [normal[0] / f, normal[1] / f, normal[2] - (normal[0] * cx + normal[1] * cy) / f];
      const length = Math.sqrt(l[0] * l[0] + l[1] * l[1]);
      for (const p of [a, b]) residuals.push(length < 1e-12 ? 1e4 : (scale * (l[0] * p[0] + l[1] * p[1] + l[2])) / length);
      continue;
    }
    const d = apply3(toCamera, direction);
    // from the line's middle towards its vanishing point K d
    const vx = f * d[0] + (cx - (a[0] + b[0]) / 2) * d[2];
    const vy = f * d[1] + (cy - (a[1] + b[1]) / 2) * d[2];
    // not the careful function for it, which costs more than all the rest: a picture's search asks this some thousand times
    const length = Math.sqrt(vx * vx + vy * vy);
    residuals.push(length < 1e-12 ? 0 : (scale * (vx * (a[1] - b[1]) - vy * (a[0] - b[0]))) / (length * Math.SQRT2));
  }
  return residuals;
}
