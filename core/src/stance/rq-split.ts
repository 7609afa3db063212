import type { Mat3, Vec3 } from '../linear/mat3';
import { cross3, determinant3, dot3 } from '../linear/mat3';
import { degrees } from '../picture/point';
import { attitudeFromRotation, type Attitude } from './attitude';

/** A homography as camera movements. */
export interface RqSplit {
  /** Q: camera axes -> aim axes, as roll, tilt and swing. */
  readonly attitude: Attitude;
  readonly rotation: Mat3;
  /** U, upper triangular, positive diagonal, U22 = 1: what stretches, slants and places. */
  readonly upper: Mat3;
  /** Stretch of x against y, and slant in degrees (tops to the right positive). */
  readonly aspect: number;
  readonly shearDeg: number;
}

const unit = (v: Vec3): Vec3 => {
  const length = Math.hypot(...v);
  return [v[0] / length, v[1] / length, v[2] / length];
};

/**
 * Splits H K = U Q, U upper triangular with positive diagonal, Q a rotation: unique.
 *
 * @param hk homography ideal -> plane times K, any scale; row-major
 * @returns null for a singular or mirrored map
 * Source: Hartley, Zisserman, Multiple View Geometry, 2nd ed., A4.1.
 */
export function rqSplit(hk: Mat3): RqSplit | null {
  const det = determinant3(hk);
  if (!(Math.abs(det) > 0)) return null;
  // H is known up to a factor: of the two signs the one that keeps Q a rotation
  const sign = Math.sign(det);
  const rows = [0, 3, 6].map((k) => [sign * (hk[k] as number), sign * (hk[k + 1] as number), sign * (hk[k + 2] as number)] as Vec3) as [
    Vec3,
    Vec3,
    Vec3,
  ];
  const q3 = unit(rows[2]);
  const u22 = dot3(rows[2], q3);
  const u12 = dot3(rows[1], q3);
  const rest: Vec3 = [rows[1][0] - u12 * q3[0], rows[1][1] - u12 * q3[1], rows[1][2] - u12 * q3[2]];
  const q2 = unit(rest);
  const u11 = dot3(rows[1], q2);
  const q1 = cross3(q2, q3);
  const u00 = dot3(rows[0], q1);
  if (!(u00 > 0 && u11 > 0 && u22 > 0)) return null;
  const u01 = dot3(rows[0], q2);
  const u02 = dot3(rows[0], q3);
  const rotation: Mat3 = [...q1, ...q2, ...q3];
  return {
    attitude: attitudeFromRotation(rotation),
    rotation,
    upper: [u00 / u22, u01 / u22, u02 / u22, 0, u11 / u22, u12 / u22, 0, 0, 1],
    aspect: u00 / u11,
    shearDeg: degrees(Math.atan(-u01 / u11)),
  };
}
