import type { Correction } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { FILTERS } from './filters';
import { apartIn } from './lateral';

/** How far apart the map is asked, px of the result. */
const STEP = 32;

/** Rows of a picture, the last one not among them. */
export interface RowSpan {
  readonly from: number;
  readonly to: number;
}

/**
 * Which rows of the picture a band of the result may read; all of them where that cannot be told from some places of the band.
 * Between two of these the map may go beyond both by no more than from one to the other.
 */
export function rowsRead(correction: Correction, warp: Warp, fromRow: number, toRow: number): RowSpan {
  const { height } = warp.pictureSize;
  const { width } = warp.outputSize;
  const all = { from: 0, to: height };
  const shrinks = warp.crop.width > 8 * width;
  if (shrinks || warp.shimBoxes.length > 0) return all;
  const place = new Float64Array(2);
  let [highest, lowest, step] = [Infinity, -Infinity, 0];
  const rows = [fromRow, Math.floor((fromRow + toRow) / 2), toRow];
  const above = new Float64Array(Math.ceil(width / STEP) + 1);
  for (const [r, row] of rows.entries()) {
    for (let c = 0; c < above.length; c += 1) {
      if (!warp.outputToPicture(Math.min(width, c * STEP), row, place)) return all;
      const y = place[1] as number;
      if (c > 0) step = Math.max(step, Math.abs(y - (above[c - 1] as number)));
      if (r > 0) step = Math.max(step, Math.abs(y - (above[c] as number)));
      highest = Math.min(highest, y);
      lowest = Math.max(lowest, y);
      above[c] = y;
    }
  }
  // a filter reaches farther where the picture shrinks
  const reach = FILTERS[correction.output.filter].radius * Math.max(1, step / STEP) + 2 + rowsApart(correction, height);
  return {
    from: Math.min(height, Math.max(0, Math.floor(highest - step - reach))),
    to: Math.min(height, Math.max(0, Math.ceil(lowest + step + reach))),
  };
}

/** How many rows red and blue may lie from green at most. */
function rowsApart(correction: Correction, height: number): number {
  const apart = apartIn(correction, [1, 1]);
  if (!apart) return 0;
  const {
    lateral: { red, blue },
    meet: [, y],
  } = apart;
  return Math.max(Math.abs(red - 1), Math.abs(blue - 1)) * Math.max(Math.abs(y), Math.abs(height - y));
}
