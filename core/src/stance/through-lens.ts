import type { Correction } from '../correction/schema';
import { lensOf } from '../lens/lens-of';
import type { LensMap } from '../lens/lens-map';
import { noLens } from '../lens/none';
import type { Point, Size } from '../picture/point';
import { turnPoint } from '../picture/quarter-turns';

/** The lens of a correction as it is used: none while it is switched off. */
export const usedLens = ({ lens }: Correction, size: Size): LensMap => (lens.on ? lensOf(lens.model, size) : noLens(size));

/** Picture -> ideal (turned) for single points, px: null where a point has no image through the lens. */
export function throughLens(correction: Correction, size: Size): (p: Point) => Point | null {
  const lens = usedLens(correction, size);
  const out = new Float64Array(2);
  return (p) =>
    lens.undistort(p[0], p[1], out) ? turnPoint([out[0] as number, out[1] as number], size, correction.stance.quarterTurns) : null;
}
