import type { Point } from '../picture/point';
import type { Raster } from '../raster/raster';
import { medianOf, type Planes } from './lid';
import type { Box } from './parts';
import { settleSides } from './settle-sides';
import type { CoarseSide } from './sides-on-level';
import { mapQuad } from '../picture/quad';

/** A border's paper lies between these, px of the level, from the outer edge; it is this even. */
const PAPER_FROM_PX = 2;
const PAPER_TO_PX = 4;
const EVEN = 0.06;
/** What a picture differs by from the paper around it, along so much of its side. */
const DIFFERS = 0.05;
const ALONG = 0.55;
/** A border takes up to this share of the print's shorter side. */
const WIDEST = 0.3;
const SECTIONS = 200;
/** Sides of which none is seen have the others' width, where so many are. */
const FEWEST_SIDES = 2;

/**
 * Where the picture begins inside a print's white border.
 *
 * @param levels the scan first, then each half the size of the one before
 * @param planes the colours of the last of them
 * @param corners of the print, clockwise as seen; picture px
 * @returns its corners in the same order, sides fitted as the print's own are; null where there is no border, or it is not seen
 */
export function innerEdge(levels: readonly Raster[], planes: Planes, corners: Box): Box | null {
  const scale = (levels[0] as Raster).width / planes.width;
  const box = mapQuad(corners, ([x, y]): Point => [x / scale, y / scale]);
  const sides = [0, 1, 2, 3].map((i) => sideAt(box, i));
  const widths = sides.map((side) => borderWidth(planes, side));
  const found = widths.filter((w) => w !== null);
  if (found.length < FEWEST_SIDES) return null;
  const usual = medianOf(found);
  const coarse = sides.map(({ p, c, s, length }, i): CoarseSide => {
    const width = widths[i] ?? usual;
    const [x, y] = [p[0] + (c * length) / 2 - s * width, p[1] + (s * length) / 2 + c * width];
    return { at: [x * scale, y * scale], rad: Math.atan2(s, c), share: widths[i] === null ? 0 : 1 };
  });
  return settleSides(levels, coarse, scale, true).corners;
}

interface Side {
  readonly p: Point;
  readonly c: number;
  readonly s: number;
  readonly length: number;
  /** How deep the print is behind it, px. */
  readonly deep: number;
}

function sideAt(box: Box, i: number): Side {
  const [p, q, r] = [box[i], box[(i + 1) % 4], box[(i + 2) % 4]] as unknown as [Point, Point, Point];
  const length = Math.hypot(q[0] - p[0], q[1] - p[1]) || 1;
  return { p, c: (q[0] - p[0]) / length, s: (q[1] - p[1]) / length, length, deep: Math.hypot(r[0] - q[0], r[1] - q[1]) };
}

/** How wide the even paper along a side is, px of the level; null where there is none, or it does not end. */
function borderWidth({ width, height, planes }: Planes, { p, c, s, length, deep }: Side): number | null {
  const at = (t: number, o: number): number => {
    const x = Math.min(width - 1, Math.max(0, Math.floor(p[0] + c * t - s * o)));
    const y = Math.min(height - 1, Math.max(0, Math.floor(p[1] + s * t + c * o)));
    return y * width + x;
  };
  const ts = Array.from({ length: SECTIONS }, (_, n) => length * (0.15 + (0.7 * (n + 0.5)) / SECTIONS));
  const rim = ts.flatMap((t) => [at(t, PAPER_FROM_PX), at(t, PAPER_TO_PX)]);
  const paper = planes.map((plane) => medianOf(rim.map((k) => plane[k] as number)));
  const offAt = (k: number): number => Math.max(...planes.map((plane, i) => Math.abs((plane[k] as number) - (paper[i] as number))));
  const even = rim.filter((k) => offAt(k) <= EVEN).length / rim.length;
  if (even < 0.85) return null;
  const most = WIDEST * Math.min(length, deep);
  for (let o = PAPER_TO_PX; o <= most; o += 0.5) {
    const off = ts.filter((t) => offAt(at(t, o)) > DIFFERS).length;
    if (off >= ALONG * ts.length) return o;
  }
  return null;
}
