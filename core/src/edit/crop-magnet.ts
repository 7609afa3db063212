import type { Correction } from '../correction/schema';
import type { CropPart } from './crop-drag';
import { type Rect, rectCentre } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { type PlaneWarp, toPlane } from '../warp/plane-warp';

/** Where the sides of a crop, or its middle, are drawn to; plane px. */
export interface CropMagnet {
  readonly xs: readonly number[];
  readonly ys: readonly number[];
  /** Middle lines: the crop's own middle is drawn to these while it is moved. */
  readonly middleXs: readonly number[];
  readonly middleYs: readonly number[];
}

/** The outline's outermost points, the guides, and the middle lines: the picture's middle and where its axis meets the plane. */
export function cropMagnet(correction: Correction, warp: PlaneWarp): CropMagnet {
  const bounds = boundsOf(warp.outline);
  const guides = (axis: 'x' | 'y'): number[] => correction.guides.filter((g) => g.axis === axis).map((g) => g.at);
  const middle = toPlane(warp, [warp.pictureSize.width / 2, warp.pictureSize.height / 2]) ?? rectCentre(bounds);
  const middles = correction.camera.flat ? [middle] : [middle, warp.stance.axis];
  const [middleXs, middleYs] = [0, 1].map((k) => middles.map((p) => p[k] as number)) as [number[], number[]];
  return {
    xs: [bounds.x, bounds.x + bounds.width, ...guides('x'), ...middleXs],
    ys: [bounds.y, bounds.y + bounds.height, ...guides('y'), ...middleYs],
    middleXs: [...middleXs, ...guides('x')],
    middleYs: [...middleYs, ...guides('y')],
  };
}

/** How far the nearest of `targets` lies from any of `places`, within reach; 0 for none. */
function pullTo(places: readonly (readonly [number, readonly number[]])[], reach: number): number {
  let best = 0;
  let nearest = reach;
  for (const [place, targets] of places)
    for (const target of targets)
      if (Math.abs(target - place) < nearest) {
        nearest = Math.abs(target - place);
        best = target - place;
      }
  return best;
}

/**
 * How much farther a drag goes so that what it moves lies on a magnet's line, plane px: the sides that the part moves, or sides and
 * middle when the whole crop is moved.
 * @param reach plane px
 */
export function magnetStep(rect: Rect, part: CropPart, magnet: CropMagnet, reach: number): readonly [number, number] {
  const along = (from: number, size: number, low: boolean, high: boolean, lines: readonly number[], middles: readonly number[]): number => {
    if (part === 'inside')
      return pullTo(
        [
          [from + size / 2, middles],
          [from, lines],
          [from + size, lines],
        ],
        reach,
      );
    return low ? pullTo([[from, lines]], reach) : high ? pullTo([[from + size, lines]], reach) : 0;
  };
  return [
    along(rect.x, rect.width, part.includes('w'), part.includes('e'), magnet.xs, magnet.middleXs),
    along(rect.y, rect.height, part.includes('n'), part.includes('s'), magnet.ys, magnet.middleYs),
  ];
}
