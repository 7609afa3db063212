import type { Correction, Crop } from '../correction/schema';
import { boundsOf } from '../picture/polygon';
import { rectCorners, type Point, type Rect } from '../picture/point';
import { toPicture, toPlane, type PlaneWarp } from '../warp/plane-warp';

/** A part of the picture that no crop may cut, picture px. */
export type KeepBox = Crop['keep'][number];

/** Slack when a box is judged held, plane px. */
export const SLACK_PX = 0.5;

/** Whether a rectangle holds another. */
export const holdsRect = (outer: Rect, inner: Rect): boolean =>
  inner.x >= outer.x - SLACK_PX &&
  inner.y >= outer.y - SLACK_PX &&
  inner.x + inner.width <= outer.x + outer.width + SLACK_PX &&
  inner.y + inner.height <= outer.y + outer.height + SLACK_PX;

/** Keep boxes on the plane, px: the bounds of their mapped corners, in the order of the document. */
export const keepBoxesOnPlane = (correction: Correction, warp: PlaneWarp): Rect[] =>
  correction.crop.keep.map((box) => boundsOf(cornersOf(box, (p) => toPlane(warp, p))));

const cornersOf = (box: Rect, map: (p: Point) => Point | null): Point[] =>
  rectCorners(box)
    .map(map)
    .filter((p) => p !== null);

/** How many keep boxes a crop on the plane cuts. */
export const cutBoxes = (correction: Correction, warp: PlaneWarp, crop: Rect): number =>
  keepBoxesOnPlane(correction, warp).filter((box) => !holdsRect(crop, box)).length;

/**
 * The document with a keep box more: the part of the picture that shows in a rectangle on the plane, each side of the box where that side
 * of the rectangle lies on the whole. Unchanged without an image there.
 */
export function withKeepBox(correction: Correction, warp: PlaneWarp, onPlane: Rect): Correction {
  const corners = cornersOf(onPlane, (p) => toPicture(warp, p));
  if (corners.length < 4) return correction;
  const { width, height } = warp.pictureSize;
  // whichever way the picture was turned, two of the corners lie on the low side and two on the high one
  const sides = (k: 0 | 1, most: number): readonly [number, number] => {
    const [p, q, r, s] = corners.map((c) => Math.min(most, Math.max(0, c[k]))).sort((u, v) => u - v) as [number, number, number, number];
    return [(p + q) / 2, (r + s) / 2];
  };
  const [[left, right], [top, bottom]] = [sides(0, width), sides(1, height)];
  if (right - left < 1 || bottom - top < 1) return correction;
  const largest = correction.crop.keep.reduce((most, k) => Math.max(most, Number(/^k(\d+)$/.exec(k.id)?.[1] ?? 0)), 0);
  const box: KeepBox = { id: `k${largest + 1}`, x: left, y: top, width: right - left, height: bottom - top };
  return { ...correction, crop: { ...correction.crop, keep: [...correction.crop.keep, box] } };
}

/** The document without one keep box; a crop around the boxes goes back to what is marked with the last one. */
export function withoutKeepBox(correction: Correction, id: string): Correction {
  const { crop } = correction;
  const keep = crop.keep.filter((k) => k.id !== id);
  return { ...correction, crop: { ...crop, keep, around: keep.length === 0 && crop.around === 'keep' ? 'lines' : crop.around } };
}
