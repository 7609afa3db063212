import type { Correction } from '../correction/schema';
import { keepCropInPlace } from './keep-crop-in-place';

/**
 * The document after it was changed while it stood for a delivery: the delivery keeps the crop that was set, the picture its own. A
 * picture that was turned under the crop takes all its crops along, and sets none of them.
 */
export function takenFromDelivery(changed: Correction, before: Correction, id: string): Correction {
  const { crop, output, deliveries } = before;
  const own: Correction = { ...changed, crop: { ...crop, keep: changed.crop.keep }, output, deliveries };
  if (changed.stance !== before.stance) return keepCropInPlace(before, own);
  const { rect } = changed.crop;
  return { ...own, deliveries: deliveries.map((d) => (d.id === id ? { id, ...(rect ? { rect } : {}) } : d)) };
}

/** The document with a delivery chosen for its picture, or not. */
export function withDelivery(correction: Correction, id: string, on: boolean): Correction {
  const others = correction.deliveries.filter((d) => d.id !== id);
  if (on && others.length < correction.deliveries.length) return correction;
  return { ...correction, deliveries: on ? [...others, { id }] : others };
}
