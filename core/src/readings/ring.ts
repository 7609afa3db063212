import type { Correction, ShapeRing } from '../correction/schema';
import { apply3, cross3, dot3, multiply3, type Vec3 } from '../linear/mat3';
import type { Point } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { rotationFromAttitude } from '../stance/attitude';
import { usedAttitude } from '../stance/stance-homography';
import { facingOf } from '../stance/world-direction';
import { toPlane, type PlaneWarp } from '../warp/plane-warp';

/** A shape ring as it reads. */
export interface RingReading {
  readonly id: string;
  readonly number: number;
  readonly kind: ShapeRing['kind'];
  /** Width for height on the plane over what it should be: 1.18 is 18 % too wide. Null where it has no image, or nothing to go by. */
  readonly ratio: number | null;
}

const POINTS = 96;

/** The ellipse of a ring, picture px, closed. */
export const ringOutline = ({ centre: c, right: r, top: t }: Pick<ShapeRing, 'centre' | 'right' | 'top'>): Point[] =>
  Array.from({ length: POINTS }, (_, i) => {
    const [cos, sin] = [Math.cos((2 * Math.PI * i) / POINTS), Math.sin((2 * Math.PI * i) / POINTS)];
    return [c[0] + (r[0] - c[0]) * cos + (t[0] - c[0]) * sin, c[1] + (r[1] - c[1]) * cos + (t[1] - c[1]) * sin];
  });

/**
 * How much too wide a ring is. Something round on the front should be a circle on the plane. A head should have the proportions that it
 * has seen from its own direction: in a picture taken with the camera turned to face its middle, upright as the front is.
 */
export function ringReading(correction: Correction, warp: PlaneWarp, ring: ShapeRing, number: number): RingReading {
  const outline = ringOutline(ring);
  const shown = proportionsOf(outline.map((p) => toPlane(warp, p)));
  const asked = ring.kind === 'round' ? 1 : proportionsOf(facedPoints(correction, warp, outline, ring.centre));
  return { id: ring.id, number, kind: ring.kind, ratio: shown && asked ? shown / asked : null };
}

/** All rings of a document. */
export const ringReadings = (correction: Correction, warp: PlaneWarp): RingReading[] =>
  correction.ease.rings.map((ring, i) => ringReading(correction, warp, ring, i + 1));

/** Width over height; null where a point has no image. */
function proportionsOf(points: readonly (Point | null)[]): number | null {
  if (!points.every((p) => p !== null)) return null;
  const { width, height } = boundsOf(points);
  return width > 0 && height > 0 ? width / height : null;
}

/** Picture points as a camera facing one of them would show them, at a focal length of 1; a sheet has no viewer. */
function facedPoints(correction: Correction, warp: PlaneWarp, points: readonly Point[], middle: Point): (Point | null)[] {
  if (correction.camera.flat) return [null];
  const toFront = multiply3(facingOf(correction), rotationFromAttitude(usedAttitude(correction)));
  const { centre, focalPx } = warp.stance;
  const out = new Float64Array(2);
  const ray = (p: Point): Vec3 | null =>
    warp.pictureToIdeal(p[0], p[1], out)
      ? apply3(toFront, [((out[0] as number) - centre[0]) / focalPx, ((out[1] as number) - centre[1]) / focalPx, 1])
      : null;
  const along = ray(middle);
  if (!along) return [null];
  const ahead = unit(along);
  const right = unit(cross3([0, 1, 0], ahead));
  const down = cross3(ahead, right);
  return points.map((p) => {
    const q = ray(p);
    const depth = q ? dot3(q, ahead) : 0;
    return q && depth > 0 ? [dot3(q, right) / depth, dot3(q, down) / depth] : null;
  });
}

function unit(v: Vec3): Vec3 {
  const length = Math.hypot(...v);
  return [v[0] / length, v[1] / length, v[2] / length];
}

/** Below this share a shape counts as true. */
const TRUE_SHARE = 0.005;

/** "18 % too wide", "true". */
export function ringWords(ratio: number | null): string {
  if (ratio === null) return 'no reading';
  if (Math.abs(ratio - 1) < TRUE_SHARE) return 'true';
  return ratio > 1 ? `${((ratio - 1) * 100).toFixed(0)} % too wide` : `${((1 - ratio) * 100).toFixed(0)} % too narrow`;
}
