import { multiply3, rotationX, rotationY, rotationZ, type Mat3 } from '../linear/mat3';
import { degrees, radians } from '../picture/point';

/** Roll, tilt and swing in degrees; signs as in docs/decisions (roll clockwise seen from behind, tilt up, swing right). */
export interface Attitude {
  readonly roll: number;
  readonly tilt: number;
  readonly swing: number;
}

/** R = Ry(swing) Rx(tilt) Rz(roll): camera axes -> world axes (x along the front, y down, z into the front). */
export const rotationFromAttitude = ({ roll, tilt, swing }: Attitude): Mat3 =>
  multiply3(rotationY(radians(swing)), rotationX(radians(tilt)), rotationZ(radians(roll)));

/** The inverse of {@link rotationFromAttitude}; tilt in [-90, 90]. */
export const attitudeFromRotation = (m: Mat3): Attitude => ({
  roll: degrees(Math.atan2(m[3], m[4])),
  tilt: degrees(Math.asin(Math.max(-1, Math.min(1, -m[5])))),
  swing: degrees(Math.atan2(m[2], m[8])),
});
