import type { Correction } from '../correction/schema';
import type { Point } from '../picture/point';
import { boundsOf, isInside } from '../picture/polygon';
import { blankRaster, isWide, type Raster } from '../raster/raster';
import type { SheetAngle } from './sheet-angle';
import type { Witness } from './witnesses';

/** What lies nearer to a print's edge than this, as a share of the way to its middle, is the edge itself. */
const RIM = 0.03;

/** Where a piece of a sheet shows its own picture: its corners, a little inwards; picture px. Null for a picture that is no piece. */
export function ownPart({ piece }: Correction): readonly Point[] | null {
  const corners = piece?.inner ?? piece?.corners;
  if (!corners) return null;
  const [cx, cy] = [0, 1].map((k) => corners.reduce((sum, p) => sum + (p[k] as number), 0) / 4) as [number, number];
  return corners.map(([x, y]): Point => [x + RIM * (cx - x), y + RIM * (cy - y)]);
}

/** The straight edges that lie within a part: those of other prints and of the paper say nothing of this one. */
export const within = (witnesses: readonly Witness[], part: readonly Point[]): Witness[] =>
  witnesses.filter(({ a, b }) => isInside(part, a) && isInside(part, b));

/** The pixels around a part, and where they begin; px of the raster. */
export function cutOut(
  { width, height, channels, data }: Raster,
  part: readonly Point[],
  scale: number,
): { readonly raster: Raster; readonly from: Point } {
  const { x, y, width: w, height: h } = boundsOf(part.map(([u, v]): Point => [u * scale, v * scale]));
  const [x0, y0] = [Math.max(0, Math.floor(x)), Math.max(0, Math.floor(y))];
  const [x1, y1] = [Math.min(width, Math.ceil(x + w)), Math.min(height, Math.ceil(y + h))];
  const raster = blankRaster(Math.max(1, x1 - x0), Math.max(1, y1 - y0), channels, isWide({ data }) ? 16 : 8);
  for (let row = 0; row < raster.height; row += 1) {
    const at = ((y0 + row) * width + x0) * channels;
    raster.data.set(data.subarray(at, at + raster.width * channels), row * raster.width * channels);
  }
  return { raster, from: [x0, y0] };
}

/** How a page lies by its writing, its rows where they are on the whole picture; picture px. */
export const moved = (sheet: SheetAngle | null, [x, y]: Point): SheetAngle | null =>
  sheet && {
    ...sheet,
    rows: sheet.rows.map(([p, q]) => [
      [p[0] + x, p[1] + y],
      [q[0] + x, q[1] + y],
    ]),
  };
