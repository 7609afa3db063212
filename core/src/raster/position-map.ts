/** Where an output position lies in the source: writes x, y (source px, pixel centres at .5); false where there is nothing. */
export type PositionMap = (x: number, y: number, out: Float64Array) => boolean;
