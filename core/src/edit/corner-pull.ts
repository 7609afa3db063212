import type { Correction } from '../correction/schema';
import { keepCropInPlace } from './keep-crop-in-place';
import { type Mat3, apply3, inverse3, multiply3 } from '../linear/mat3';
import { PlumbError } from '../picture/failure';
import type { Point } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';
import { homographyFromCorners } from '../stance/homography-from-corners';
import { rqSplit } from '../stance/rq-split';
import { type PlaneWarp, planeWarp, toPlane, uneased } from '../warp/plane-warp';
import { mapQuad, quadOf, type Quad } from '../picture/quad';

/** The picture's corners (turned, top left first) on the plane; null while one has no image there. */
export function cornersOnPlane(warp: PlaneWarp, correction: Correction): Quad | null {
  const corners = pictureCorners(correction).map((p) => toPlane(warp, p));
  return quadOf(corners);
}

/** Picture points that are top left, top right, bottom right, bottom left once turned. */
function pictureCorners({ picture: { width, height }, stance }: Correction): Point[] {
  const corners: readonly Point[] = [
    [0, 0],
    [width, 0],
    [width, height],
    [0, height],
  ];
  // a clockwise quarter turn brings the lower left corner to the upper left
  return corners.map((_, i) => corners[(i - stance.quarterTurns + 4) % 4] as Point);
}

/** These corners turn the picture over or fold it. */
export class PullError extends PlumbError {
  constructor() {
    super('pull-impossible', 'The picture cannot be pulled that far: it would fold over itself.', 'Let the corner back a little.');
    this.name = 'PullError';
  }
}

/**
 * The document after its picture's corners were pulled to places on the plane: exactly there, expressed as roll, tilt, swing, aspect,
 * shear, and as scale and shift of the pull. By hand from now on, at full strength.
 *
 * @param target where the corners shall lie, top left first; plane px
 * @throws PullError when the picture would fold
 */
export function withPulledCorners(correction: Correction, target: Quad): Correction {
  if (!isConvex(target)) throw new PullError();
  const size = correction.picture;
  const bare: Correction = {
    ...correction,
    stance: {
      ...correction.stance,
      from: 'hand',
      strength: { tilt: 1, swing: 1 },
      aim: { roll: 0, tilt: 0, swing: 0 },
      adjust: { roll: 0, tilt: 0, swing: 0 },
    },
  };
  const { lens, stance: homography, turnedSize } = planeWarp({ ...bare, stance: { ...bare.stance, roll: 0, tilt: 0, swing: 0 } }, size);
  const out = new Float64Array(2);
  const ideal = quadOf(
    pictureCorners(correction).map((p) =>
      lens.undistort(p[0], p[1], out) ? turnPoint([out[0] as number, out[1] as number], size, correction.stance.quarterTurns) : null,
    ),
  );
  if (!ideal) throw new PullError();
  const back = inverse3(homographyFromCorners(ideal));
  const { focalPx: f, centre } = homography;
  const k: Mat3 = [f, 0, centre[0], 0, f, centre[1], 0, 0, 1];
  // what is eased bends after the pull: the corners go where the present easing takes them to the target
  const before = planeWarp(correction, size);
  const flat = quadOf(target.map((p) => uneased(before, p)));
  if (!flat) throw new PullError();
  const h = back && multiply3(homographyFromCorners(flat), back);
  const split = h && rqSplit(multiply3(h, k));
  if (
    !h ||
    !split ||
    Math.abs(split.attitude.tilt) > 80 ||
    Math.abs(split.attitude.swing) > 80 ||
    !(split.aspect > 0.1 && split.aspect < 10) ||
    Math.abs(split.shearDeg) > 60
  )
    throw new PullError();
  const anchor: Point = [turnedSize.width / 2, turnedSize.height / 2];
  const ray = apply3(split.rotation, [(anchor[0] - centre[0]) / f, (anchor[1] - centre[1]) / f, 1]);
  const w0 = ray[2];
  if (!(w0 > 0.05)) throw new PullError();
  const at = apply3(h, [anchor[0], anchor[1], 1]);
  const scale = Math.sqrt(split.upper[0] * split.upper[4]) / (f * w0 ** 1.5);
  const pulled: Correction = {
    ...bare,
    stance: {
      ...bare.stance,
      ...split.attitude,
      aspect: split.aspect,
      shear: split.shearDeg,
      slanted: 'plumb',
      pull: { scale, shift: [at[0] / at[2], at[1] / at[2]] },
    },
  };
  return keepCropInPlace(correction, pulled);
}

/** Whether four corners, top left first, turn clockwise all the way: anything else folds the picture. */
const isConvex = (corners: Quad): boolean =>
  corners.every((p, i) => {
    const [q, r] = [corners[(i + 1) % 4] as Point, corners[(i + 2) % 4] as Point];
    return (q[0] - p[0]) * (r[1] - q[1]) - (q[1] - p[1]) * (r[0] - q[0]) > 0;
  });

/** What is pulled: a corner (0..3, top left first) or a side (0 top, 1 right, 2 bottom, 3 left). */
export interface PullHandle {
  readonly id: string;
  readonly corners: readonly number[];
  readonly at: Point;
}

/** Handles of the picture's corners and sides, from their places on the plane. */
export function pullHandles(corners: Quad): PullHandle[] {
  return [
    ...corners.map((at, i) => ({ id: `corner${i}`, corners: [i], at })),
    ...corners.map((p, i) => {
      const q = corners[(i + 1) % 4] as Point;
      return { id: `side${i}`, corners: [i, (i + 1) % 4], at: [(p[0] + q[0]) / 2, (p[1] + q[1]) / 2] as Point };
    }),
  ];
}

/**
 * Corners after a handle was dragged by a way on the plane; `alike` moves the mirror-image corners on the other side by the mirrored way.
 */
export function pulledBy(corners: Quad, handle: PullHandle, [dx, dy]: Point, alike: boolean): Quad {
  const mirror = [1, 0, 3, 2];
  return mapQuad(corners, ([x, y], i): Point => {
    if (handle.corners.includes(i)) return [x + dx, y + dy];
    if (alike && handle.corners.includes(mirror[i] as number)) return [x - dx, y + dy];
    return [x, y];
  });
}
