import type { Correction } from '../correction/schema';
import { PlumbError } from '../picture/failure';
import type { Point, Rect, Size } from '../picture/point';
import { costOf } from '../warp/cost';
import { planeWarp, type PlaneWarp } from '../warp/plane-warp';
import { outputSize } from './output-size';
import { resolveCrop } from './resolve-crop';

/** The whole chain of one correction: picture <-> output, and what lies between. Everything that draws, samples or measures uses it. */
export interface Warp extends PlaneWarp {
  /** The rectangle that is exported, plane px. */
  readonly crop: Rect;
  readonly outputSize: Size;
  /** Output -> picture; null where there is no image. px. */
  toPicture(x: number, y: number): Point | null;
  /** Picture -> output; null where there is no image; may lie outside the file. px. */
  toOutput(x: number, y: number): Point | null;
  /** {@link toPicture} without allocation: false where there is no image. */
  outputToPicture(x: number, y: number, out: Float64Array): boolean;
  outputToPlane(x: number, y: number): Point;
}

/**
 * Composes a correction into one warp.
 *
 * @param pictureSize the picture as its orientation tag shows it; must be the document's size
 * @throws PlumbError when sizes differ, the stance cannot be shown, the lens folds or the crop is impossible
 */
export function composeWarp(correction: Correction, pictureSize: Size): Warp {
  if (pictureSize.width !== correction.picture.width || pictureSize.height !== correction.picture.height) {
    throw new PlumbError(
      'size-differs',
      `This correction was made for a picture of ${correction.picture.width} x ${correction.picture.height} px; this one has ${pictureSize.width} x ${pictureSize.height}.`,
      'Nothing was applied.',
    );
  }
  const plane = planeWarp(correction, pictureSize);
  const crop = resolveCrop(correction, plane);
  const size = outputSize(correction, crop, () => costOf(plane, crop).peakEnlargement);
  const natural = correction.output.size.kind === 'natural';
  // natural: samples exactly 1 px apart about the rectangle's centre; others scale each axis
  const stepX = natural ? 1 : crop.width / size.width;
  const stepY = natural ? 1 : crop.height / size.height;
  const { flipX, flipY } = correction.stance;
  const ax = flipX ? -stepX : stepX;
  const ay = flipY ? -stepY : stepY;
  const bx = crop.x + crop.width / 2 - (ax * size.width) / 2;
  const by = crop.y + crop.height / 2 - (ay * size.height) / 2;
  const out = new Float64Array(2);
  const outputToPicture = (x: number, y: number, into: Float64Array): boolean => plane.planeToPicture(bx + ax * x, by + ay * y, into);
  return {
    ...plane,
    crop,
    outputSize: size,
    outputToPicture,
    outputToPlane: (x, y) => [bx + ax * x, by + ay * y],
    toPicture: (x, y) => (outputToPicture(x, y, out) ? [out[0] as number, out[1] as number] : null),
    toOutput: (x, y) => (plane.pictureToPlane(x, y, out) ? [((out[0] as number) - bx) / ax, ((out[1] as number) - by) / ay] : null),
  };
}
