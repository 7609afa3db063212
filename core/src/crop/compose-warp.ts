import type { Correction } from '../correction/schema';
import { PlumbError } from '../picture/failure';
import { rectCorners, type Point, type Rect, type Size } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { costOf } from '../warp/cost';
import { planeScale } from '../warp/panel-plane';
import { FLATNESS_PX, NEAR_FLATNESS_PX } from '../warp/outline';
import { planeWarp, type PlaneWarp } from '../warp/plane-warp';
import { outputSize } from './output-size';
import { resolveCrop, type Trim } from './resolve-crop';

/** The whole chain of one correction: picture <-> output, and what lies between. Everything that draws, samples or measures uses it. */
export interface Warp extends PlaneWarp {
  /** The rectangle that is exported, plane px. */
  readonly crop: Rect;
  readonly outputSize: Size;
  /** Whether every output pixel outside shims is one of the picture's own pixels: no lens, no turn but by quarters, whole shifts. */
  readonly pixelExact: boolean;
  /** Output -> picture; null where there is no image. px. */
  toPicture(x: number, y: number): Point | null;
  /** Picture -> output; null where there is no image; may lie outside the file. px. */
  toOutput(x: number, y: number): Point | null;
  /** What shims may move, output px: a rectangle each; outside of all of them the file is as it were without them. */
  readonly shimBoxes: readonly Rect[];
  /** {@link outputToPicture} as it were without shims. */
  outputToPictureUnshimmed(x: number, y: number, out: Float64Array): boolean;
  /** {@link toPicture} without allocation: false where there is no image. */
  outputToPicture(x: number, y: number, out: Float64Array): boolean;
  outputToPlane(x: number, y: number): Point;
}

/** Warps by correction: these are never changed, and a trim that follows a lens takes its time. */
const composed: Readonly<Record<Trim, WeakMap<Correction, Warp>>> = { best: new WeakMap(), near: new WeakMap() };

/**
 * Composes a correction into one warp, once.
 *
 * @param pictureSize the picture as its orientation tag shows it; must be the document's size
 * @param trim 'near' only for what is looked at while it moves
 * @throws PlumbError when sizes differ, the stance cannot be shown, the lens folds or the crop is impossible
 */
export function composeWarp(correction: Correction, pictureSize: Size, trim: Trim = 'best'): Warp {
  if (pictureSize.width !== correction.picture.width || pictureSize.height !== correction.picture.height) {
    throw new PlumbError(
      'size-differs',
      `This correction was made for a picture of ${correction.picture.width} x ${correction.picture.height} px; this one has ${pictureSize.width} x ${pictureSize.height}.`,
      'Nothing was applied.',
    );
  }
  const known = composed.best.get(correction) ?? composed[trim].get(correction);
  if (known) return known;
  const warp = newWarp(correction, pictureSize, trim);
  composed[trim].set(correction, warp);
  return warp;
}

/** The same correction with its crop as it was found, so that whoever draws it need not look for the trim again. */
export const withFoundCrop = (correction: Correction, { crop }: Pick<Warp, 'crop'>): Correction => ({
  ...correction,
  crop: { ...correction.crop, edges: 'keep', rect: crop },
});

function newWarp(correction: Correction, pictureSize: Size, trim: Trim): Warp {
  const plane = planeWarp(correction, pictureSize, trim === 'near' ? NEAR_FLATNESS_PX : FLATNESS_PX);
  const crop = resolveCrop(correction, plane, trim);
  const size = outputSize(
    correction,
    crop,
    () => costOf(plane, crop).peakEnlargement,
    () => planeScale(correction, plane)?.mmPerPx ?? null,
  );
  const natural = correction.output.size.kind === 'natural';
  // natural: samples exactly 1 px apart about the rectangle's centre; others scale each axis
  const stepX = natural ? 1 : crop.width / size.width;
  const stepY = natural ? 1 : crop.height / size.height;
  const { flipX, flipY } = correction.stance;
  const ax = flipX ? -stepX : stepX;
  const ay = flipY ? -stepY : stepY;
  const start: Point = [crop.x + crop.width / 2 - (ax * size.width) / 2, crop.y + crop.height / 2 - (ay * size.height) / 2];
  const aligned = natural ? alignToPixels(plane.shimmed?.without ?? plane, start, [ax * size.width, ay * size.height]) : null;
  const [bx, by] = aligned ?? start;
  const out = new Float64Array(2);
  const through =
    (warp: PlaneWarp) =>
    (x: number, y: number, into: Float64Array): boolean =>
      warp.planeToPicture(bx + ax * x, by + ay * y, into);
  const outputToPicture = through(plane);
  return {
    ...plane,
    crop,
    outputSize: size,
    pixelExact: aligned !== null,
    outputToPicture,
    outputToPictureUnshimmed: through(plane.shimmed?.without ?? plane),
    shimBoxes: (plane.shimmed?.shims ?? []).map(({ box }) =>
      boundsOf(rectCorners(box).map(([x, y]): Point => [(x - bx) / ax, (y - by) / ay])),
    ),
    outputToPlane: (x, y) => [bx + ax * x, by + ay * y],
    toPicture: (x, y) => (outputToPicture(x, y, out) ? [out[0] as number, out[1] as number] : null),
    toOutput: (x, y) => (plane.pictureToPlane(x, y, out) ? [((out[0] as number) - bx) / ax, ((out[1] as number) - by) / ay] : null),
  };
}

const WHOLE_PX = 1e-6;

/**
 * Where the plane shows the picture's pixels one to one, a crop is moved by at most half a pixel so that its pixels are the picture's
 * own and nothing is interpolated.
 *
 * @param start plane point of the output's first corner; `span` the way to the opposite one
 * @returns the aligned start, or null where pixels are not shown one to one
 */
function alignToPixels(plane: PlaneWarp, start: Point, span: Point): Point | null {
  if (!plane.lens.straight || plane.ease) return null;
  const out = new Float64Array(2);
  const at = (x: number, y: number): Point | null => (plane.planeToPicture(x, y, out) ? [out[0] as number, out[1] as number] : null);
  const far: Point = [start[0] + span[0], start[1] + span[1]];
  const [p, px, py, q] = [at(...start), at(start[0] + 1, start[1]), at(start[0], start[1] + 1), at(...far)];
  if (!p || !px || !py || !q) return null;
  const [a, b, c, d] = [px[0] - p[0], py[0] - p[0], px[1] - p[1], py[1] - p[1]];
  const unit = (v: number): boolean => Math.abs(v - Math.round(v)) < WHOLE_PX / 1e3;
  if (![a, b, c, d].every(unit) || Math.abs(Math.abs(a * d - b * c) - 1) > WHOLE_PX) return null;
  // no perspective: the far corner lies where the steps say
  if (Math.abs(p[0] + a * span[0] + b * span[1] - q[0]) + Math.abs(p[1] + c * span[0] + d * span[1] - q[1]) > WHOLE_PX * 100) return null;
  const shift = (from: number, to: number, length: number): number => {
    const low = Math.min(from, to);
    const target = Math.round(low);
    const inside = low > -1 && Math.max(from, to) < length + 1;
    return (inside ? Math.min(Math.max(target, 0), Math.max(0, length - Math.round(Math.abs(to - from)))) : target) - low;
  };
  const dx = shift(p[0], q[0], plane.pictureSize.width);
  const dy = shift(p[1], q[1], plane.pictureSize.height);
  return [start[0] + a * dx + c * dy, start[1] + b * dx + d * dy];
}
