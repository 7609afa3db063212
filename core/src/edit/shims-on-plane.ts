import type { Correction, Shim, ShimLine } from '../correction/schema';
import { placedShim, type PlacedShim } from '../ease/shim-map';
import { cellsOf, crossingShare } from '../ease/shim-spline';
import { distance, rectCentre, type Point, type Rect } from '../picture/point';
import { toPlane, type PlaneWarp } from '../warp/plane-warp';
import { crossingAt, holdAt, SAME_PLACE_PX, warpBeforeShim } from './shims';

/** A shim as it lies on the plane that is shown, px. */
export interface ShimOnPlane {
  readonly shim: Shim;
  readonly box: Rect;
  /** How much of what is asked is done, 0..1; 1 where it is not used. */
  readonly share: number;
  readonly largestArea: number;
  readonly smallestArea: number;
  readonly crossings: readonly ShimCrossing[];
  /** What is held beside the crossings, since the net was another. */
  readonly strays: readonly { readonly id: string; readonly at: Point; readonly nail: boolean }[];
  /** Rows and columns of the net, from the border to the border. */
  readonly net: readonly (readonly Point[])[];
  readonly lines: readonly { readonly line: ShimLine; readonly points: readonly Point[]; readonly offPx: number }[];
}

export interface ShimCrossing {
  readonly column: number;
  readonly row: number;
  /** Where it lies when nothing moves it, px from the middle of the box. */
  readonly from: Point;
  readonly at: Point;
  readonly hold: 'no' | 'moved' | 'nail';
}

/** Points of a row or column of the net, a cell. */
const DRAWN_A_CELL = 3;

/** The shims as they are seen; those whose middle has no image are left out. */
export function shimsOnPlane(correction: Correction, warp: PlaneWarp): ShimOnPlane[] {
  const placed = warp.shimmed?.shims ?? [];
  return correction.ease.shims.flatMap((shim) => {
    const before = warpBeforeShim(correction, shim.id);
    const onPlane = (p: Point): Point | null => toPlane(before, p);
    const own = placed.find((p) => p.shim === shim) ?? placedShim({ ...shim, used: true, holds: [], lines: [] }, onPlane);
    if (!own) return [];
    const later = placed.slice(placed.findIndex((p) => p.shim === shim) + 1 || placed.length);
    const shown = shownBy(own, later);
    const [cx, cy] = rectCentre(own.box);
    const count = shim.crossings;
    const crossings = Array.from({ length: count * count }, (_, k): ShimCrossing => {
      const [column, row] = [k % count, Math.floor(k / count)];
      const from = crossingAt(shim, column, row);
      const hold = holdAt(shim, from);
      return { column, row, from, at: shown([cx + from[0], cy + from[1]]), hold: !hold ? 'no' : hold.nail ? 'nail' : 'moved' };
    });
    const strays = shim.holds.flatMap(({ id, from, nail }) =>
      crossings.some((c) => distance(c.from, from) < SAME_PLACE_PX) ? [] : [{ id, at: shown([cx + from[0], cy + from[1]]), nail }],
    );
    const steps = cellsOf(count) * DRAWN_A_CELL;
    const across = (k: 0 | 1) =>
      Array.from({ length: count }, (_, i) =>
        Array.from({ length: steps + 1 }, (__, s): Point => {
          const along = s / steps - 0.5;
          const still = crossingShare(i, count) - 0.5;
          const [u, v] = k === 0 ? [along, still] : [still, along];
          return shown([cx + u * shim.width, cy + v * shim.height]);
        }),
      );
    const lines = shim.lines.flatMap((line) => {
      const points = line.points.map((p) => onPlane(p));
      if (!points.every((p) => p !== null)) return [];
      const course = points.length === 2 ? between(points[0] as Point, points[1] as Point) : points;
      const seen = course.map(shown);
      return [{ line, points: seen, offPx: offTrue(seen, line.kind) }];
    });
    const { box, share, largestArea, smallestArea } = own;
    return [{ shim, box, share, largestArea, smallestArea, crossings, strays, net: [...across(0), ...across(1)], lines }];
  });
}

/** How a place of a shim's plane is seen, through it and those after it. */
function shownBy(own: PlacedShim, later: readonly PlacedShim[]): (p: Point) => Point {
  const out = new Float64Array(2);
  return ([x, y]) => {
    own.forward(x, y, out);
    for (const shim of later) shim.forward(out[0] as number, out[1] as number, out);
    return [out[0] as number, out[1] as number];
  };
}

const COURSE = 24;
const between = (a: Point, b: Point): Point[] =>
  Array.from({ length: COURSE + 1 }, (_, i) => [a[0] + ((b[0] - a[0]) * i) / COURSE, a[1] + ((b[1] - a[1]) * i) / COURSE]);

/** By how much a course departs from what it should be, px: the spread along the axis that should stay, or the greatest distance from its chord. */
function offTrue(points: readonly Point[], kind: ShimLine['kind']): number {
  if (kind !== 'straight') {
    const values = points.map((p) => p[kind === 'level' ? 1 : 0]);
    return Math.max(...values) - Math.min(...values);
  }
  const [a, b] = [points[0] as Point, points.at(-1) as Point];
  const length = distance(a, b) || 1;
  return Math.max(...points.map(([x, y]) => Math.abs((x - a[0]) * (b[1] - a[1]) - (y - a[1]) * (b[0] - a[0])) / length));
}
