import type { Correction } from '../correction/schema';
import { rectAround, rectCentre } from '../picture/point';
import { turnedSize } from '../picture/quarter-turns';

/** The document with held proportions; a crop by hand takes them about its centre with the same area. */
export function withRatio(correction: Correction, ratio: Correction['crop']['ratio']): Correction {
  const { rect, ...rest } = correction.crop;
  if (!rect || ratio === 'free') return { ...correction, crop: { ...rest, ratio, ...(rect ? { rect } : {}) } };
  const turned = turnedSize(correction.picture, correction.stance.quarterTurns);
  const value = ratio === 'as-taken' ? turned.width / turned.height : ratio;
  const area = rect.width * rect.height;
  return { ...correction, crop: { ...rest, ratio, rect: rectAround(rectCentre(rect), Math.sqrt(area * value), Math.sqrt(area / value)) } };
}

/** A crop computed from its answers again: what was dragged is dropped. */
export function withTrim(correction: Correction, answers: Partial<Pick<Correction['crop'], 'edges' | 'around' | 'ratio'>>): Correction {
  const { rect: _dropped, ...crop } = correction.crop;
  return { ...correction, crop: { ...crop, ...answers } };
}

/** A crop by hand, plane px. */
export const withCropRect = (correction: Correction, rect: Correction['crop']['rect']): Correction =>
  rect ? { ...correction, crop: { ...correction.crop, rect } } : withTrim(correction, {});

/** The crop's proportions turned: tall for wide. As taken becomes the turned number; a crop by hand turns about its centre. */
export function turnProportion(correction: Correction): Correction {
  const { ratio, rect } = correction.crop;
  const turned = turnedSize(correction.picture, correction.stance.quarterTurns);
  const next = ratio === 'free' ? ratio : 1 / (ratio === 'as-taken' ? turned.width / turned.height : ratio);
  const back = typeof next === 'number' && Math.abs(next - turned.width / turned.height) < 1e-12 ? 'as-taken' : next;
  const crop: Correction['crop'] = { ...correction.crop, ratio: back };
  return { ...correction, crop: rect ? { ...crop, rect: rectAround(rectCentre(rect), rect.height, rect.width) } : crop };
}
