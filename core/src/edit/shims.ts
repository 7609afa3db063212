import { FEWEST_CROSSINGS, MOST_CROSSINGS, type Correction, type Shim, type ShimHold, type ShimLine } from '../correction/schema';
import { placedShim, type PlacedShim } from '../ease/shim-map';
import { cellsOf, crossingShare } from '../ease/shim-spline';
import { PlumbError } from '../picture/failure';
import { distance, rectCentre, type Point, type Rect } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { planeWarp, toPicture, toPlane, type PlaneWarp } from '../warp/plane-warp';
import { nextId } from './next-id';

/** A shim's box must hold its net, px. */
const SMALLEST_BOX_PX = 24;

const withShims = (correction: Correction, shims: readonly Shim[]): Correction => ({
  ...correction,
  ease: { ...correction.ease, shims: [...shims] },
});

/** The document with one shim changed. */
export const withShimChanged = (correction: Correction, id: string, change: Partial<Shim>): Correction =>
  withShims(
    correction,
    correction.ease.shims.map((s) => (s.id === id ? { ...s, ...change } : s)),
  );

/** The document without one shim. */
export const withoutShim = (correction: Correction, id: string): Correction =>
  withShims(
    correction,
    correction.ease.shims.filter((s) => s.id !== id),
  );

export const shimOf = (correction: Correction, id: string): Shim | null => correction.ease.shims.find((s) => s.id === id) ?? null;

/** The chain as it is before a shim acts. */
const before = (correction: Correction, id: string): PlaneWarp => {
  const { shims } = correction.ease;
  return planeWarp(
    withShims(
      correction,
      shims.slice(
        0,
        shims.findIndex((s) => s.id === id),
      ),
    ),
    correction.picture,
  );
};

/**
 * The document with a shim more, over a box of the plane that is shown.
 *
 * @throws PlumbError for a box too small for a net, and for one that lies outside the picture
 */
export function withShim(correction: Correction, warp: PlaneWarp, box: Rect): Correction {
  if (Math.min(box.width, box.height) < SMALLEST_BOX_PX)
    throw new PlumbError('shim-small', `A shim needs a box of ${SMALLEST_BOX_PX} px or more a side.`, 'Draw it larger, or zoom in.');
  const at = pictureUnder(warp, box);
  const shim: Shim = {
    id: nextId('shim', correction.ease.shims),
    at: [...at],
    width: box.width,
    height: box.height,
    crossings: 6,
    used: true,
    holds: [],
    lines: [],
  };
  return withShims(correction, [...correction.ease.shims, shim]);
}

/** The picture point in the middle of a box of the plane. */
function pictureUnder(warp: PlaneWarp, box: Rect): Point {
  const at = toPicture(warp, rectCentre(box));
  const { width, height } = warp.pictureSize;
  if (!at || at[0] < 0 || at[1] < 0 || at[0] > width || at[1] > height)
    throw new PlumbError(
      'shim-outside',
      'The middle of this shim would lie outside the picture.',
      'Draw it over what is to be moved; nothing was changed.',
    );
  return at;
}

/** The document with a shim's box elsewhere on its plane; what it holds stays where it is. Throws as {@link withShim} does. */
export function withShimBox(correction: Correction, id: string, box: Rect): Correction {
  const shim = shimOf(correction, id);
  if (!shim) return correction;
  const width = Math.max(SMALLEST_BOX_PX, box.width);
  const height = Math.max(SMALLEST_BOX_PX, box.height);
  const warp = before(correction, id);
  const at = pictureUnder(warp, { ...box, width, height });
  const [was, is] = [toPlane(warp, shim.at), toPlane(warp, at)];
  if (!was || !is) return correction;
  const [dx, dy] = [was[0] - is[0], was[1] - is[1]];
  const kept = ([x, y]: Point): [number, number] => [x + dx, y + dy];
  const holds = shim.holds.map((h) => ({ ...h, from: kept(h.from), to: kept(h.to) }));
  return withShimChanged(correction, id, { at: [...at], width, height, holds });
}

/** A corner of a shim's box, moved by a way on the plane; the one across stays. */
export function withShimCorner(correction: Correction, id: string, corner: 0 | 1 | 2 | 3, [dx, dy]: Point): Correction {
  const shim = shimOf(correction, id);
  const middle = shim && toPlane(before(correction, id), shim.at);
  if (!middle) return correction;
  const left = corner === 0 || corner === 3;
  const top = corner < 2;
  const width = Math.max(SMALLEST_BOX_PX, shim.width + (left ? -dx : dx));
  const height = Math.max(SMALLEST_BOX_PX, shim.height + (top ? -dy : dy));
  return withShimBox(correction, id, {
    x: left ? middle[0] + shim.width / 2 - width : middle[0] - shim.width / 2,
    y: top ? middle[1] + shim.height / 2 - height : middle[1] - shim.height / 2,
    width,
    height,
  });
}

/** The document with a shim's net finer (+1) or coarser (-1); what is held stays held. */
export function withShimNet(correction: Correction, id: string, by: number): Correction {
  const shim = shimOf(correction, id);
  if (!shim) return correction;
  return withShimChanged(correction, id, { crossings: Math.min(MOST_CROSSINGS, Math.max(FEWEST_CROSSINGS, shim.crossings + by)) });
}

/** Positions nearer than this are one place, px. */
const SAME_PX = 0.01;

/** Where a crossing lies in its box when nothing moves it, px from the middle. */
export const crossingAt = ({ width, height, crossings }: Shim, column: number, row: number): Point => [
  (crossingShare(column, crossings) - 0.5) * width,
  (crossingShare(row, crossings) - 0.5) * height,
];

/** What holds a place of a shim; null for nothing. */
export const holdAt = ({ holds }: Shim, from: Point): ShimHold | null => holds.find((h) => distance(h.from, from) < SAME_PX) ?? null;

/** A document after places of a shim were moved, and whether they were stopped before they would fold. */
export interface MovedPlaces {
  readonly correction: Correction;
  readonly stopped: boolean;
}

const HALVINGS = 9;

/**
 * The document with places of a shim moved together, as far as nothing folds.
 *
 * @param places as they lie when nothing moves them, px from the middle of the box
 * @param by px on the shim's plane
 */
export function withPlacesMoved(correction: Correction, id: string, places: readonly Point[], by: Point): MovedPlaces {
  const shim = shimOf(correction, id);
  const warp = before(correction, id);
  const onPlane = (p: Point): Point | null => toPlane(warp, p);
  const now = shim && placedShim({ ...shim, used: true }, onPlane);
  if (!shim || !now) return { correction, stopped: false };
  const [cx, cy] = rectCentre(now.box);
  const out = new Float64Array(2);
  const starts = places.map((from): Point => {
    const hold = holdAt(shim, from);
    if (hold) return hold.to;
    now.forward(cx + from[0], cy + from[1], out);
    return [(out[0] as number) - cx, (out[1] as number) - cy];
  });
  const inBox = ([x, y]: Point): boolean => Math.abs(x) < shim.width / 2 && Math.abs(y) < shim.height / 2;
  const moved = (share: number): Shim | null => {
    const targets = starts.map(([x, y]): Point => [x + by[0] * share, y + by[1] * share]);
    if (!targets.every(inBox)) return null;
    return {
      ...shim,
      holds: places.reduce<ShimHold[]>((holds, from, i) => held(holds, from, targets[i] as Point, false), shim.holds),
    };
  };
  const least = Math.min(1, now.share) - 1e-6;
  const fits = (next: Shim | null): next is Shim => next !== null && (placedShim({ ...next, used: true }, onPlane)?.share ?? 0) >= least;
  const whole = moved(1);
  if (fits(whole)) return { correction: withShimChanged(correction, id, whole), stopped: false };
  let [low, high] = [0, 1];
  for (let i = 0; i < HALVINGS; i += 1) {
    const middle = (low + high) / 2;
    if (fits(moved(middle))) low = middle;
    else high = middle;
  }
  const most = moved(low);
  return { correction: most && low > 0 ? withShimChanged(correction, id, most) : correction, stopped: true };
}

/** Holds with a place at another; one that is there stays what it is. */
function held(holds: readonly ShimHold[], from: Point, to: Point, nail: boolean): ShimHold[] {
  const known = holds.find((h) => distance(h.from, from) < SAME_PX);
  if (known) return holds.map((h) => (h === known ? { ...h, to: [...to], nail: h.nail || nail } : h));
  return [...holds, { id: nextId('hold', holds), from: [...from], to: [...to], nail }];
}

/** The document with a place nailed where it is now, or let go again where it was nailed. */
export function withNailSwitched(correction: Correction, id: string, from: Point): Correction {
  const shim = shimOf(correction, id);
  if (!shim) return correction;
  const known = holdAt(shim, from);
  // nothing jumps: let go of, it is as if a hand had moved it there
  if (known?.nail) return withShimChanged(correction, id, { holds: shim.holds.map((h) => (h === known ? { ...h, nail: false } : h)) });
  const warp = before(correction, id);
  const now = placedShim({ ...shim, used: true }, (p) => toPlane(warp, p));
  if (!now) return correction;
  const [cx, cy] = rectCentre(now.box);
  const out = new Float64Array(2);
  now.forward(cx + from[0], cy + from[1], out);
  return withShimChanged(correction, id, { holds: held(shim.holds, from, [(out[0] as number) - cx, (out[1] as number) - cy], true) });
}

/** The document with a place of a shim free again. */
export const withoutHold = (correction: Correction, id: string, from: Point): Correction => {
  const shim = shimOf(correction, id);
  return shim ? withShimChanged(correction, id, { holds: shim.holds.filter((h) => distance(h.from, from) >= SAME_PX) }) : correction;
};

// ---- lines

/** So many cells of the net lie between a line's ends and the border, so that it can come true to its ends. */
const CELLS_BEYOND = 3;
/** Crossings of a net that has lines, at least. */
const CROSSINGS_WITH_LINES = 10;
/** Slopes at which a line is taken to become level, or plumb, degrees off the horizontal (common practice, no published source). */
const LEVEL_BELOW_DEG = 20;
const PLUMB_ABOVE_DEG = 70;

/** What a line on the plane is taken to become, by how it runs; one of many points to become straight. */
export function kindOfShimLine(points: readonly Point[]): ShimLine['kind'] {
  const [a, b] = [points[0] as Point, points.at(-1) as Point];
  if (points.length > 2) return 'straight';
  const slope = (Math.atan2(Math.abs(b[1] - a[1]), Math.abs(b[0] - a[0])) * 180) / Math.PI;
  return slope < LEVEL_BELOW_DEG ? 'level' : slope > PLUMB_ABOVE_DEG ? 'plumb' : 'straight';
}

/**
 * The document with a line in a shim that becomes true. The net becomes fine enough and the box large enough for it to come true to its
 * ends; in both nothing that is held moves.
 *
 * @param points along it, picture px, two or more
 * @param kind by default as it runs
 * @throws PlumbError where it has no image, or runs so that it cannot become what it should
 */
export function withShimLine(correction: Correction, id: string, points: readonly Point[], kind?: ShimLine['kind']): Correction {
  const shim = shimOf(correction, id);
  if (!shim) return correction;
  const warp = before(correction, id);
  const on = points.map((p) => toPlane(warp, p));
  if (points.length < 2 || !on.every((p) => p !== null))
    throw new PlumbError('line-outside', 'This line leaves what can be seen of the picture.', 'Draw it inside; nothing was changed.');
  const become = kind ?? kindOfShimLine(on);
  const line: ShimLine = { id: nextId('line', shim.lines), kind: become, points: points.map(([x, y]) => [x, y]) };
  refuseAcross(on, become);
  return roomFor(withShimChanged(correction, id, { lines: [...shim.lines, line] }), id, gentle(boundsOf(on), become), warp);
}

/** A line that runs square to what it should become has no way there. */
function refuseAcross(on: readonly Point[], kind: ShimLine['kind']): void {
  const [a, b] = [on[0] as Point, on.at(-1) as Point];
  const [dx, dy] = [Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])];
  if ((kind === 'level' && dy > dx) || (kind === 'plumb' && dx > dy))
    throw new PlumbError(
      'line-across',
      kind === 'level' ? 'This line is nearer to plumb than to level.' : 'This line is nearer to level than to plumb.',
      'Choose the other, or straight; nothing was changed.',
    );
}

/** The document with another kind for a line of a shim. Throws as {@link withShimLine} does. */
export function withShimLineKind(correction: Correction, id: string, lineId: string, kind: ShimLine['kind']): Correction {
  const shim = shimOf(correction, id);
  const line = shim?.lines.find((l) => l.id === lineId);
  if (!shim || !line) return correction;
  const warp = before(correction, id);
  const on = line.points.map((p) => toPlane(warp, p));
  if (on.every((p) => p !== null)) refuseAcross(on, kind);
  return withShimChanged(correction, id, { lines: shim.lines.map((l) => (l === line ? { ...l, kind } : l)) });
}

export const withoutShimLine = (correction: Correction, id: string, lineId: string): Correction => {
  const shim = shimOf(correction, id);
  return shim ? withShimChanged(correction, id, { lines: shim.lines.filter((l) => l.id !== lineId) }) : correction;
};

/** What is moved by so much has this many times as much room on both sides, so that it bends gently. */
const GENTLE = 1.5;

/** The room that a line needs: beyond its own, as it has to move. */
function gentle({ x, y, width, height }: Rect, kind: ShimLine['kind']): Rect {
  const across = kind === 'level' ? 0 : GENTLE * width;
  const down = kind === 'plumb' ? 0 : GENTLE * height;
  return kind === 'straight'
    ? { x, y, width, height }
    : { x: x - across, y: y - down, width: width + 2 * across, height: height + 2 * down };
}

/** Rounds in which a side grows: each time its cells grow too, by less and less. */
const GROWING = 16;

/** The document whose shim has cells enough all round a line. */
function roomFor(correction: Correction, id: string, line: Rect, warp: PlaneWarp): Correction {
  const shim = shimOf(correction, id) as Shim;
  const crossings = Math.max(shim.crossings, CROSSINGS_WITH_LINES);
  const middle = toPlane(warp, shim.at);
  const finer = withShimChanged(correction, id, { crossings });
  if (!middle) return finer;
  const beyond = CELLS_BEYOND / cellsOf(crossings);
  // a side as long as it must be for so many of its own cells to lie beyond both ends
  const grown = (low: number, length: number, from: number, to: number): readonly [number, number] => {
    let [least, most] = [low, low + length];
    for (let i = 0; i < GROWING; i += 1) {
      const room = (most - least) * beyond;
      [least, most] = [Math.min(least, from - room), Math.max(most, to + room)];
    }
    return [least, most];
  };
  const [left, right] = grown(middle[0] - shim.width / 2, shim.width, line.x, line.x + line.width);
  const [top, bottom] = grown(middle[1] - shim.height / 2, shim.height, line.y, line.y + line.height);
  const box = { x: left, y: top, width: right - left, height: bottom - top };
  if (box.width === shim.width && box.height === shim.height) return finer;
  try {
    return withShimBox(finer, id, box);
  } catch (error) {
    if (error instanceof PlumbError) return finer;
    throw error;
  }
}

// ---- as it is seen

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
    const warpBefore = before(correction, shim.id);
    const onPlane = (p: Point): Point | null => toPlane(warpBefore, p);
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
      crossings.some((c) => distance(c.from, from) < SAME_PX) ? [] : [{ id, at: shown([cx + from[0], cy + from[1]]), nail }],
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
