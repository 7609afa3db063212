import type { Correction } from '../correction/schema';
import { degrees, type Point } from '../picture/point';
import { planeDirectionLean } from '../picture/line-angle';
import type { Attitude } from './attitude';
import { judgedAttitude } from './judged-attitude';
import { stanceHomography } from './stance-homography';
import { directionOnPlane } from './world-direction';

/** Lean of the vertical at a plane point under the present stance and aim, degrees, positive with its top to the left. */
export function verticalLeanDeg(
  correction: Correction,
  at: Point,
  attitude: Attitude = judgedAttitude(correction, correction.picture),
): number {
  const homography = stanceHomography(correction, correction.picture);
  return planeDirectionLean(directionOnPlane(correction, homography, [0, 1, 0], at, attitude));
}

/**
 * The aim's roll under which the vertical at `picturePoint` is plumb, the convergence being kept; degrees.
 * @param toPlaneUnturned where the correction with aim.roll 0 shows that picture point
 */
export function middlePlumbRoll(correction: Correction, toPlaneUnturned: (c: Correction) => Point | null): number | null {
  const unturned: Correction = { ...correction, stance: { ...correction.stance, aim: { ...correction.stance.aim, roll: 0 } } };
  const at = toPlaneUnturned(unturned);
  if (!at) return null;
  const homography = stanceHomography(unturned, unturned.picture);
  const attitude = judgedAttitude(unturned, unturned.picture);
  const [dx, dy] = directionOnPlane(unturned, homography, [0, 1, 0], at, attitude);
  return dx === 0 && dy === 0 ? null : -degrees(Math.atan(dx / dy));
}
