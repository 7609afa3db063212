import type { Correction } from '../correction/schema';
import { type Rect, rectAround, rectCentre } from '../picture/point';
import { planeWarp, toPicture, toPlane } from '../warp/plane-warp';

/** A rectangle by hand keeps its size and the picture point under its centre when the geometry under it changes. */
export function keepCropInPlace(before: Correction, after: Correction): Correction {
  const { crop, deliveries } = after;
  if (!crop.rect && !deliveries.some((d) => d.rect)) return after;
  try {
    const [from, to] = [planeWarp(before, before.picture), planeWarp(after, after.picture)];
    const moved = (rect: Rect): Rect => {
      const point = toPicture(from, rectCentre(rect));
      const centre = point && toPlane(to, point);
      return centre ? rectAround(centre, rect.width, rect.height) : rect;
    };
    return {
      ...after,
      crop: crop.rect ? { ...crop, rect: moved(crop.rect) } : crop,
      deliveries: deliveries.map((d) => (d.rect ? { ...d, rect: moved(d.rect) } : d)),
    };
  } catch {
    return after;
  }
}
