import type { Correction } from '../correction/schema';
import { apply3, multiply3, rotationX, transpose3, IDENTITY3, type Mat3 } from '../linear/mat3';
import { PlumbError } from '../picture/failure';
import { diagonal, radians, type Point, type Size } from '../picture/point';
import { turnPoint, turnedSize } from '../picture/quarter-turns';
import { focalPxOfCorrection, opticalCentreOf } from '../correction/new-correction';
import { rotationFromAttitude, type Attitude } from './attitude';
import { panelPoints } from './panel-points';

/** The pinhole part of the chain for one correction: ideal (turned) <-> plane. */
export interface StanceHomography {
  /** Ideal -> plane, unnormalised: the third component is the depth w of the ray along the aim. */
  readonly toPlane: Mat3;
  /** Plane -> ideal, scaled so that the third component is the camera-ray depth of an aim ray of depth 1. */
  readonly toIdeal: Mat3;
  /** Depth at the anchor. Points with w < 0.1 w0 have no image. */
  readonly w0: number;
  readonly focalPx: number;
  /** Optical centre, ideal px (turned). */
  readonly centre: Point;
  /** Where the aim's own axis meets the plane, px. */
  readonly axis: Point;
  /** How rays of the aim [x, y, 1] lie about the axis: [xx, xy, yx, yy], px. */
  readonly linear: readonly [number, number, number, number];
  /** Plane px for one px of the virtual camera's picture, aspect aside. */
  readonly scale: number;
}

/** The stance cannot be shown: the anchor lies too far off the aim, or behind it. */
export class StanceBeyondError extends PlumbError {
  constructor() {
    super(
      'stance-beyond',
      'The picture cannot be turned this far: its middle would lie beside or behind the viewer.',
      'Nothing is lost; take back some tilt or swing.',
    );
    this.name = 'StanceBeyondError';
  }
}

/** Multiples of the diagonal that stand for the infinite focal length of a flat picture; it only ever rolls. */
const FLAT_FOCAL_DIAGONALS = 1000;

/** Smallest allowed depth at the anchor. */
const SMALLEST_W0 = 0.05;

/** The attitude a correction uses: solved or by hand, plus what the hand adds; a flat picture only rolls. */
export function usedAttitude({ stance, camera }: Correction): Attitude {
  const roll = stance.roll + stance.adjust.roll;
  if (camera.flat) return { roll, tilt: 0, swing: 0 };
  return { roll, tilt: stance.tilt + stance.adjust.tilt, swing: stance.swing + stance.adjust.swing };
}

/** The virtual camera of the result: what is held back or added. Roll is always taken out in full. */
export function aimAttitude({ stance, camera }: Correction, used: Attitude): Attitude {
  if (camera.flat) return { roll: stance.aim.roll, tilt: 0, swing: 0 };
  return {
    roll: stance.aim.roll,
    tilt: (1 - stance.strength.tilt) * used.tilt + stance.aim.tilt,
    swing: (1 - stance.strength.swing) * used.swing + stance.aim.swing,
  };
}

/** Camera axes -> aim axes: R_aim^T F R. */
export function cameraToAim(correction: Correction): Mat3 {
  const used = usedAttitude(correction);
  const front = correction.camera.flat ? 'sheet' : correction.stance.front;
  const facing = front === 'floor' ? rotationX(Math.PI / 2) : front === 'ceiling' ? rotationX(-Math.PI / 2) : IDENTITY3;
  return multiply3(transpose3(rotationFromAttitude(aimAttitude(correction, used))), facing, rotationFromAttitude(used));
}

/**
 * Where a floor or a ceiling is anchored: the mean of what was pointed at on it, turned px; the picture's middle may look past it.
 * Null for walls and sheets, and while nothing is pointed at.
 */
function anchorOf({ stance, camera, references, panels }: Correction, size: Size): Point | null {
  if (camera.flat || (stance.front !== 'floor' && stance.front !== 'ceiling')) return null;
  const points = [...references.filter((r) => r.used).flatMap((r) => [r.a, r.b]), ...panels.filter((p) => p.used).flatMap(panelPoints)];
  if (points.length === 0) return null;
  const mean = [0, 1].map((k) => points.reduce((sum, p) => sum + (p[k] as number), 0) / points.length) as [number, number];
  return turnPoint(mean, size, stance.quarterTurns);
}

/**
 * H = pull A N K0 R_aim^T F R K^-1 of a correction, in both directions, built from the factors so that no inverse is taken.
 *
 * @param pictureSize the picture as its orientation tag shows it, px
 * @param anchor turned point at which the area scale is 1 and which becomes the plane's origin; by default the middle, or on a floor or
 *   ceiling the mean of what was pointed at
 * @throws StanceBeyondError when the depth at the anchor is 0.05 or less
 */
export function stanceHomography(correction: Correction, pictureSize: Size, anchor?: Point): StanceHomography {
  const { stance, camera } = correction;
  const turned = turnedSize(pictureSize, stance.quarterTurns);
  const focalPx = camera.flat ? FLAT_FOCAL_DIAGONALS * diagonal(pictureSize) : focalPxOfCorrection(correction);
  const centre = turnPoint(opticalCentreOf(correction), pictureSize, stance.quarterTurns);
  const [cx, cy] = centre;
  const f = focalPx;
  const m = cameraToAim(correction);
  const p0 = anchor ?? anchorOf(correction, pictureSize) ?? [turned.width / 2, turned.height / 2];
  const ray0 = apply3(m, [(p0[0] - cx) / f, (p0[1] - cy) / f, 1]);
  const w0 = ray0[2];
  if (!(w0 > SMALLEST_W0)) throw new StanceBeyondError();
  const scale = w0 ** 1.5;
  const [qx, qy] = [(f * ray0[0]) / w0, (f * ray0[1]) / w0];
  const a = Math.sqrt(stance.aspect);
  const lean = -Math.tan(radians(stance.shear));
  const pull = stance.pull;
  // plane = pull * A * N * K0: affine, so forward and backward are written out; slanting what is level is the same from the turned picture
  const [xx, yy] = [a * pull.scale, pull.scale / a];
  const [xy, yx] = stance.slanted === 'plumb' ? [lean * yy, 0] : [0, -lean * xx];
  const [sx, sy] = pull.shift;
  const stretch: Mat3 = [xx, xy, sx, yx, yy, sy, 0, 0, 1];
  const place: Mat3 = [scale * f, 0, -scale * qx, 0, scale * f, -scale * qy, 0, 0, 1];
  const ideal: Mat3 = [1 / f, 0, -cx / f, 0, 1 / f, -cy / f, 0, 0, 1];
  const unplace: Mat3 = [1 / (scale * f), 0, qx / f, 0, 1 / (scale * f), qy / f, 0, 0, 1];
  const det = xx * yy;
  const [bxx, bxy, byx, byy] = [yy / det, -xy / det, -yx / det, xx / det];
  const unstretch: Mat3 = [bxx, bxy, -(bxx * sx + bxy * sy), byx, byy, -(byx * sx + byy * sy), 0, 0, 1];
  const camera3: Mat3 = [f, 0, cx, 0, f, cy, 0, 0, 1];
  return {
    toPlane: multiply3(stretch, place, m, ideal),
    toIdeal: multiply3(camera3, transpose3(m), unplace, unstretch),
    w0,
    focalPx,
    centre,
    axis: [-scale * (xx * qx + xy * qy) + sx, -scale * (yx * qx + yy * qy) + sy],
    linear: [xx * scale * f, xy * scale * f, yx * scale * f, yy * scale * f],
    scale: scale * pull.scale,
  };
}
