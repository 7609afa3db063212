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
  const { size, filter, light, background, ratio } = delivery;
  const rect = ratio === 'crop' ? undefined : deliveryRect(correction, delivery);
  const crop = rect ? { ...correction.crop, ratio: rect.width / rect.height, rect } : correction.crop;
  return { ...correction, crop, output: { size, filter, light, background } };
}

/** The rectangle of a delivery with proportions of its own, plane px. */
export function deliveryRect(correction: Correction, { id, ratio }: Pick<Delivery, 'id' | 'ratio'>): Rect {
  const own = correction.deliveries.find((d) => d.id === id)?.rect;
  if (own) return own;
  const warp = planeWarp(correction, correction.picture);
  const base = resolveCrop(correction, warp);
  if (ratio === 'crop') return base;
  const asked = ratioOf(ratio, warp.turnedSize) ?? base.width / base.height;
  // proportions are typed for wide pictures and hold for tall ones turned
  const shape = typeof ratio === 'number' && base.height > base.width ? Math.min(asked, 1 / asked) : asked;
  const width = Math.min(base.width, base.height * shape);
  return rectAround(rectCentre(base), width, width / shape);
}
