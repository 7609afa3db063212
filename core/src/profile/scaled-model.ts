import type { LensModel } from '../correction/schema';

/** The same lens in a picture that is larger by `factor` on both sides: positions and focal lengths in px grow, coefficients stay. */
export function scaledModel<M extends LensModel>(model: M, factor: number): M {
  if (model.kind === 'none') return model;
  const centre = { cx: model.cx * factor, cy: model.cy * factor };
  if (model.kind === 'brown-conrady' || model.kind === 'fisheye')
    return { ...model, ...centre, fx: model.fx * factor, fy: model.fy * factor };
  return { ...model, ...centre };
}
