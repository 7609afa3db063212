import { rectCorners, type Point, type Rect } from '../picture/point';
import { clipToRect, polygonArea } from '../picture/polygon';
import type { PlaneWarp } from './plane-warp';

/** What the correction costs inside a crop. */
export interface Cost {
  /** Share of the picture's own pixels that the crop keeps, 0..1. */
  readonly kept: number;
  /** Largest and median local enlargement (greater singular value of picture -> plane). */
  readonly peakEnlargement: number;
  readonly medianEnlargement: number;
}

const SAMPLES = 17;

/** Written by every map here, and read at once. */
const PLACE = new Float64Array(2);

/** Singular values s1 >= s2 of the map picture -> plane at a plane point; null without an image. Central differences over one px. */
export function enlargementAt(warp: PlaneWarp, x: number, y: number): readonly [number, number] | null {
  const h = 0.5;
  if (!warp.planeToPicture(x + h, y, PLACE)) return null;
  let [a, c] = [PLACE[0] as number, PLACE[1] as number];
  if (!warp.planeToPicture(x - h, y, PLACE)) return null;
  a -= PLACE[0] as number;
  c -= PLACE[1] as number;
  if (!warp.planeToPicture(x, y + h, PLACE)) return null;
  let [b, e] = [PLACE[0] as number, PLACE[1] as number];
  if (!warp.planeToPicture(x, y - h, PLACE)) return null;
  b -= PLACE[0] as number;
  e -= PLACE[1] as number;
  const sum = a * a + b * b + c * c + e * e;
  const det = a * e - b * c;
  const root = Math.sqrt(Math.max(0, sum * sum - 4 * det * det));
  const [large, small] = [Math.sqrt((sum + root) / 2), Math.sqrt(Math.max(1e-18, (sum - root) / 2))];
  return [1 / small, 1 / large];
}

/** Enlargement over a crop: cells in rows from the top, each the greater singular value at its middle; null without an image. */
export interface StretchMap {
  readonly columns: number;
  readonly rows: number;
  readonly values: readonly (number | null)[];
}

/** How much every part of a crop is enlarged, in about square cells. */
export function stretchMap(warp: PlaneWarp, crop: Rect, columns: number): StretchMap {
  const rows = Math.max(1, Math.round((columns * crop.height) / crop.width));
  const values = Array.from({ length: columns * rows }, (_, k) => {
    const [i, j] = [(k % columns) + 0.5, Math.floor(k / columns) + 0.5];
    return enlargementAt(warp, crop.x + (crop.width * i) / columns, crop.y + (crop.height * j) / rows)?.[0] ?? null;
  });
  return { columns, rows, values };
}

/** Greater singular values all over a rectangle; places without an image are left out. */
function enlargements(warp: PlaneWarp, rect: Rect): number[] {
  const values: number[] = [];
  for (let j = 0; j < SAMPLES; j += 1) {
    for (let i = 0; i < SAMPLES; i += 1) {
      const s = enlargementAt(warp, rect.x + (rect.width * i) / (SAMPLES - 1), rect.y + (rect.height * j) / (SAMPLES - 1));
      if (s) values.push(s[0]);
    }
  }
  return values;
}

/** What two rectangles have in common; null for nothing. */
function overlap(a: Rect, b: Rect): Rect | null {
  const [x, y] = [Math.max(a.x, b.x), Math.max(a.y, b.y)];
  const [width, height] = [Math.min(a.x + a.width, b.x + b.width) - x, Math.min(a.y + a.height, b.y + b.height) - y];
  return width > 0 && height > 0 ? { x, y, width, height } : null;
}

/** Cost of a crop on the plane. */
export function costOf(warp: PlaneWarp, crop: Rect): Cost {
  const values = enlargements(warp, crop).sort((p, q) => p - q);
  // what shims enlarge may lie between
  const moved = (warp.shimmed?.shims ?? []).flatMap(({ box }) => {
    const inside = overlap(box, crop);
    return inside ? enlargements(warp, inside) : [];
  });
  return {
    kept: keptShare(warp, crop),
    peakEnlargement: Math.max(values.at(-1) ?? 1, ...moved),
    medianEnlargement: values[values.length >> 1] ?? 1,
  };
}

/** Area of the crop's outline in the picture, over the picture's area. */
function keptShare(warp: PlaneWarp, crop: Rect): number {
  const { width, height } = warp.pictureSize;
  const corners = rectCorners(crop);
  const out = new Float64Array(2);
  const polygon: Point[] = [];
  corners.forEach((p, i) => {
    const q = corners[(i + 1) % 4] as Point;
    for (let k = 0; k < 16; k += 1) {
      const t = k / 16;
      if (warp.planeToPicture(p[0] + (q[0] - p[0]) * t, p[1] + (q[1] - p[1]) * t, out)) polygon.push([out[0] as number, out[1] as number]);
    }
  });
  if (polygon.length < 3) return 0;
  return Math.min(1, polygonArea(clipToRect(polygon, { x: 0, y: 0, width, height })) / (width * height));
}
