import type { LensModel } from '../correction/schema';
import type { Size } from '../picture/point';
import { brownConradyLens } from './brown-conrady';
import { divisionLens } from './division';
import { fisheyeLens } from './fisheye';
import type { LensMap } from './lens-map';
import { noLens } from './none';
import { radialLens } from './radial';

/** Maps by model, which is never changed: what is solved once of a lens is there as long as its values are. */
const known = new WeakMap<LensModel, { readonly size: Size; readonly lens: LensMap }>();

/**
 * The lens map of a model; everything in picture space, before quarter turns.
 * @throws LensFoldsError when the parameters fold inside the picture
 */
export function lensOf(model: LensModel, size: Size): LensMap {
  const before = known.get(model);
  if (before?.size.width === size.width && before.size.height === size.height) return before.lens;
  const lens = newLens(model, size);
  known.set(model, { size, lens });
  return lens;
}

function newLens(model: LensModel, size: Size): LensMap {
  switch (model.kind) {
    case 'none':
      return noLens(size);
    case 'radial':
      return radialLens(model, size);
    case 'division':
      return divisionLens(model, size);
    case 'brown-conrady':
      return brownConradyLens(model, size);
    case 'fisheye':
      return fisheyeLens(model, size);
  }
}
