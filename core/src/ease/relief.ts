/** Local relief: a map of the plane as the stance makes it (flat) onto the plane that is shown, and back; px. */
export interface EaseMap {
  /** Flat -> eased into `out`; false where there is no image. */
  forward(x: number, y: number, out: Float64Array): boolean;
  /** Eased -> flat into `out`; false where there is no image. */
  back(x: number, y: number, out: Float64Array): boolean;
}

/** One map after another. */
export function following(first: EaseMap | null, then: EaseMap): EaseMap {
  if (!first) return then;
  return {
    forward: (x, y, out) => first.forward(x, y, out) && then.forward(out[0] as number, out[1] as number, out),
    back: (x, y, out) => then.back(x, y, out) && first.back(out[0] as number, out[1] as number, out),
  };
}
