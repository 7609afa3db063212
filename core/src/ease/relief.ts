/** Local relief: a map of the plane as the stance makes it (flat) onto the plane that is shown, and back; px. */
export interface EaseMap {
  /** Flat -> eased into `out`; false where there is no image. */
  forward(x: number, y: number, out: Float64Array): boolean;
  /** Eased -> flat into `out`; false where there is no image. */
  back(x: number, y: number, out: Float64Array): boolean;
}
