import type { Correction } from '../correction/schema';
import type { Vec3 } from '../linear/mat3';
import { planeDirectionLean } from '../picture/line-angle';
import type { Point } from '../picture/point';
import type { Attitude } from '../stance/attitude';
import { judgedAttitude } from '../stance/judged-attitude';
import { directionOnPlane, meetingPoint } from '../stance/world-direction';
import { eased, uneased, type PlaneWarp } from './plane-warp';

/** Step over which a direction is carried through what is eased, plane px. */
const STEP_PX = 0.5;

/**
 * Direction in which a world direction runs at a point of the plane that is shown, not normalised: what a line there should look like
 * under the present stance and aim, eased along with the picture.
 * @param attitude how the camera really stood; by default as the correction uses it
 */
export function directionShown(correction: Correction, warp: PlaneWarp, world: Vec3, at: Point, attitude?: Attitude): Point {
  const flat = uneased(warp, at) ?? at;
  const along = directionOnPlane(correction, warp.stance, world, flat, attitude);
  const length = Math.hypot(along[0], along[1]);
  if (!warp.ease || length === 0) return along;
  const step: Point = [(along[0] / length) * STEP_PX, (along[1] / length) * STEP_PX];
  const [p, q] = [eased(warp, [flat[0] - step[0], flat[1] - step[1]]), eased(warp, [flat[0] + step[0], flat[1] + step[1]])];
  return p && q ? [q[0] - p[0], q[1] - p[1]] : along;
}

/** Where lines of a world direction meet on the plane that is shown, px; null where they run alongside each other or it has no image. */
export function meetingShown(correction: Correction, warp: PlaneWarp, world: Vec3): Point | null {
  const flat = meetingPoint(correction, warp.stance, world);
  return flat && eased(warp, flat);
}

/** Lean of the vertical at a point of the plane that is shown, degrees, positive with its top to the left. */
export const verticalLeanDeg = (
  correction: Correction,
  warp: PlaneWarp,
  at: Point,
  attitude: Attitude = judgedAttitude(correction, correction.picture),
): number => planeDirectionLean(directionShown(correction, warp, [0, 1, 0], at, attitude));

/** The same for the horizontal: by how much it is turned off level there, degrees, positive with its right end up. */
export function horizontalLeanDeg(correction: Correction, warp: PlaneWarp, at: Point): number {
  const [x, y] = directionShown(correction, warp, [1, 0, 0], at, judgedAttitude(correction, correction.picture));
  return planeDirectionLean([-y, x]);
}
