import type { Correction, Reference } from '../correction/schema';
import { apply3, IDENTITY3, multiply3, rotationX, rotationZ, transpose3, type Mat3, type Vec3 } from '../linear/mat3';
import { radians, type Point } from '../picture/point';
import { rotationFromAttitude, type Attitude } from './attitude';
import { usedAttitude, type StanceHomography } from './stance-homography';

/** F: how the front lies in the world; identity for a wall and for a sheet. */
export function facingOf({ stance, camera }: Correction): Mat3 {
  if (camera.flat) return IDENTITY3;
  return stance.front === 'floor' ? rotationX(Math.PI / 2) : stance.front === 'ceiling' ? rotationX(-Math.PI / 2) : IDENTITY3;
}

/** World axes of the front -> camera axes for an attitude. */
export const worldToCamera = (facing: Mat3, attitude: Attitude): Mat3 => transpose3(multiply3(facing, rotationFromAttitude(attitude)));

/** What a reference of a kind is in reality: a unit direction in world axes, turned by its stated angle (degrees, anticlockwise as seen). */
export function worldDirection(kind: Reference['kind'], statedAngleDeg = 0): Vec3 {
  const stated = radians(statedAngleDeg);
  switch (kind) {
    case 'plumb':
      return apply3(rotationZ(-stated), [0, 1, 0]);
    case 'level':
    case 'eye':
      return apply3(rotationZ(-stated), [1, 0, 0]);
    case 'return':
      return apply3(rotationX(stated), [0, 0, 1]);
  }
}

/** A world direction on the plane in homogeneous coordinates: its vanishing point where the last is not 0. */
function onPlane(correction: Correction, { focalPx: f, centre, toPlane }: StanceHomography, world: Vec3, attitude: Attitude): Vec3 {
  const camera = apply3(worldToCamera(facingOf(correction), attitude), world);
  return apply3(toPlane, [f * camera[0] + centre[0] * camera[2], f * camera[1] + centre[1] * camera[2], camera[2]]);
}

/**
 * Direction in which a world direction runs at a plane point, not normalised: towards its vanishing point. It is what a line there
 * should look like under the present stance and aim.
 * @param attitude how the camera really stood; by default as the correction uses it
 */
export function directionOnPlane(
  correction: Correction,
  homography: StanceHomography,
  world: Vec3,
  at: Point,
  attitude: Attitude = usedAttitude(correction),
): Point {
  const v = onPlane(correction, homography, world, attitude);
  return [v[0] - v[2] * at[0], v[1] - v[2] * at[1]];
}

/** Where lines of a world direction meet on the plane, px; null where they run alongside each other. */
export function meetingPoint(correction: Correction, homography: StanceHomography, world: Vec3): Point | null {
  const v = onPlane(correction, homography, world, usedAttitude(correction));
  return Math.abs(v[2]) < 1e-12 ? null : [v[0] / v[2], v[1] / v[2]];
}
