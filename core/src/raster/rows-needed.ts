import type { Correction } from '../correction/schema';
import type { Warp } from '../crop/compose-warp';
import { FILTERS } from './filters';
import { usedLateral } from './lateral';

/** How far apart the map is asked, px of the result. */
const STEP = 32;

/**
 * How many rows of the picture, from its top, a band of the result may read; all of them where that cannot be told from some places of the band.
 * Between two of these the map may go beyond both by no more than from one to the other.
 */
export function rowsNeeded(correction: Correction, warp: Warp, fromRow: number, toRow: number): number {
  const { height } = warp.pictureSize;
  const { width } = warp.outputSize;
  const shrinks = warp.crop.width > 8 * width;
  if (shrinks || warp.shimBoxes.length > 0 || usedLateral(correction)) return height;
  const place = new Float64Array(2);
  let [lowest, step] = [0, 0];
  const rows = [fromRow, Math.floor((fromRow + toRow) / 2), toRow];
  const above = new Float64Array(Math.ceil(width / STEP) + 1);
  for (const [r, row] of rows.entries()) {
    for (let c = 0; c < above.length; c += 1) {
      if (!warp.outputToPicture(Math.min(width, c * STEP), row, place)) return height;
      const y = place[1] as number;
      if (c > 0) step = Math.max(step, Math.abs(y - (above[c - 1] as number)));
      if (r > 0) step = Math.max(step, Math.abs(y - (above[c] as number)));
      lowest = Math.max(lowest, y);
      above[c] = y;
    }
  }
  // a filter reaches farther where the picture shrinks
  const reach = FILTERS[correction.output.filter].radius * Math.max(1, step / STEP) + 2;
  return Math.min(height, Math.max(0, Math.ceil(lowest + step + reach)));
}
