import type { Correction } from '../correction/schema';
import { ratioOf } from '../crop/proportions';
import { resolveCrop } from '../crop/resolve-crop';
import { rectAround, rectCentre, type Rect } from '../picture/point';
import { planeWarp } from '../warp/plane-warp';
import type { Delivery } from './schema';

/**
 * A picture's correction as one delivery writes it: its crop, the delivery's size, filter, light and background. The crop is the picture's own;
 * where the delivery has proportions, what was set for it by hand, else the largest rectangle of them about the middle of the picture's
 * crop, tall where that is tall.
 * @throws CropImpossibleError where the picture's own crop cannot be had
 */
export function delivered(correction: Correction, delivery: Delivery): Correction {
  const { size, filter, light, background, colour, sharpen, ratio } = delivery;
  const rect = ratio === 'crop' ? undefined : deliveryRect(correction, delivery);
  const crop = rect ? { ...correction.crop, ratio: rect.width / rect.height, rect } : correction.crop;
  return { ...correction, crop, output: { size, filter, light, background, colour, sharpen } };
}

/** The rectangle of a delivery with proportions of its own, plane px. */
export function deliveryRect(correction: Correction, { id, ratio }: Pick<Delivery, 'id' | 'ratio'>): Rect {
  const warp = planeWarp(correction, correction.picture);
  const own = correction.deliveries.find((d) => d.id === id)?.rect;
  if (own) return reshaped(own, ratio === 'crop' ? undefined : ratioOf(ratio, warp.turnedSize));
  const base = resolveCrop(correction, warp);
  if (ratio === 'crop') return base;
  const asked = ratioOf(ratio, warp.turnedSize) ?? base.width / base.height;
  const shape = typeof ratio === 'number' ? lyingAs(base, asked) : asked;
  const width = Math.min(base.width, base.height * shape);
  return rectAround(rectCentre(base), width, width / shape);
}

/** Proportions are typed for wide pictures and hold for tall ones turned. */
const lyingAs = ({ width, height }: Rect, asked: number): number => (height > width ? Math.min(asked, 1 / asked) : asked);

/** Proportions that differ by less are the same. */
const SAME_SHAPE = 1e-3;

/** A rectangle that was set by hand for other proportions than the delivery has by now: these, about its middle, with its area. */
function reshaped(rect: Rect, asked: number | undefined): Rect {
  const shape = asked === undefined ? rect.width / rect.height : lyingAs(rect, asked);
  if (Math.abs(Math.log(rect.width / rect.height / shape)) < SAME_SHAPE) return rect;
  const area = rect.width * rect.height;
  return rectAround(rectCentre(rect), Math.sqrt(area * shape), Math.sqrt(area / shape));
}
