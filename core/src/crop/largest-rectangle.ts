import { rectAround, rectCentre, type Point, type Rect } from '../picture/point';
import { boundsOf, isConvex, isInside, thinned } from '../picture/polygon';
import { halfToOutline, halfWidthAbout, isClear } from './inside-outline';
import { freeInConvex, GOLDEN, insideConvex } from './largest-in-convex';
import { largestOnGrid } from './largest-on-grid';
import { containsAll, refine, type TrimConstraints } from './refine-trim';

/** An outline of more points than this, divided along a curve, is first searched with fewer. */
const MANY_POINTS = 64;
/** Parts of the outline's span by which that one may lie off. */
const COARSE_PARTS = 8192;
/** Where the search of the exact outline begins, the best of the coarse one is off by no more than such a part of the span. */
const NEARBY_PARTS = 64;

/**
 * Largest axis-parallel rectangle inside a closed polygon, which need not be convex. Curved sides are many segments: the search goes over
 * the polygon with fewer of them, and what it finds is put into the exact one and moved against its sides from there. 'near' ends before
 * that move.
 *
 * @param outline closed polygon on the plane, px
 * @returns null when the constraints leave no rectangle
 */
export function largestRectangle(outline: readonly Point[], constraints: TrimConstraints = {}): Rect | null {
  if (outline.length <= MANY_POINTS) return largestByAllSides(outline, constraints);
  const bounds = boundsOf(outline);
  const span = Math.max(bounds.width, bounds.height);
  const coarse = largestByAllSides(thinned(outline, span / COARSE_PARTS), constraints);
  const within = coarse && shrunkInto(outline, coarse, constraints.contain);
  const found = within && (constraints.near ? within : refine(outline, within, constraints, span / NEARBY_PARTS));
  // what only just holds what it must is looked for in all of the outline
  return found ?? largestByAllSides(outline, constraints);
}

/** A rectangle made smaller about its middle until it lies inside; null where it then holds no longer what it must. */
function shrunkInto(outline: readonly Point[], rect: Rect, contain: readonly Rect[] = []): Rect | null {
  const centre = rectCentre(rect);
  const half = Math.min(rect.width / 2, halfWidthAbout(outline, centre, rect.width / rect.height));
  const inside = rectAround(centre, 2 * half, (2 * half * rect.height) / rect.width);
  return half > 0 && containsAll(inside, contain) ? inside : null;
}

/**
 * {@link largestRectangle} with every segment in every step. In a convex polygon of given proportions it is one
 * linear program. Else a start is found (by that program, or by a grid of cells), then a sequence of linear programs moves the sides
 * against the outline's segments until nothing gains more than 0.01 px.
 */
export function largestByAllSides(outline: readonly Point[], constraints: TrimConstraints = {}): Rect | null {
  if (outline.length < 3) return null;
  const { ratio, centre, contain = [] } = constraints;
  if (centre && !ratio && contain.length === 0) return freeAbout(outline, centre);
  const convex = !centre && isConvex(outline);
  const exact = convex && ratio ? insideConvex(outline, ratio, contain) : null;
  if (exact) return exact;
  const start = convex && contain.length === 0 ? freeInConvex(outline) : null;
  const starts = start ? [start] : startsFor(outline, constraints);
  let best: Rect | null = null;
  for (const start of starts) {
    const refined = refine(outline, start, constraints);
    if (refined && (!best || areaOf(refined) > areaOf(best))) best = refined;
  }
  if (!best || centre || convex || constraints.near) return best;
  return ratio ? moved(outline, best, ratio, contain) : reshaped(outline, best, contain);
}

/** Proportions tried about a fixed middle: this many from one part in the widest to the reverse; then finer about the best. */
const PROPORTIONS = 240;
const WIDEST = 24;
const FINER_ROUNDS = 60;

/** The largest rectangle of any proportions about a fixed middle; null where that lies outside. Between hollow sides there are several maxima. */
function freeAbout(outline: readonly Point[], centre: Point): Rect | null {
  if (!isInside(outline, centre)) return null;
  const area = (log: number): number => halfToOutline(outline, centre, Math.exp(log)) ** 2 / Math.exp(log);
  const stepLog = (2 * Math.log(WIDEST)) / PROPORTIONS;
  let best = 0;
  for (let i = 0, most = -1; i <= PROPORTIONS; i += 1) {
    const log = i * stepLog - Math.log(WIDEST);
    const here = area(log);
    if (here > most) [best, most] = [log, here];
  }
  let [low, high] = [best - stepLog, best + stepLog];
  for (let round = 0; round < FINER_ROUNDS; round += 1) {
    const [a, b] = [high - GOLDEN * (high - low), low + GOLDEN * (high - low)];
    if (area(a) > area(b)) high = b;
    else low = a;
  }
  const ratio = Math.exp((low + high) / 2);
  const half = halfToOutline(outline, centre, ratio);
  return half > 0 ? rectAround(centre, 2 * half, (2 * half) / ratio) : null;
}

const areaOf = (rect: Rect): number => rect.width * rect.height;

/** Middles tried over the outline, a side; and how far apart those that are begun from lie at least, in steps. */
const MIDDLES = 16;
const APART = 2;
/** As many are begun from. */
const BEGINNINGS = 3;

/**
 * Between hollow sides the programs of held proportions may stop in a lesser one of several maxima, or on a ridge that rises too slowly
 * for them: they begin again from the best of many middles all over the outline, and from the middle set aside, as long as that gives more.
 */
function moved(outline: readonly Point[], rect: Rect, ratio: number, contain: readonly Rect[]): Rect {
  let best = rect;
  const beginAt = (at: Point, half: number): void => {
    const start = rectAround(at, 2 * half, (2 * half) / ratio);
    const refined = half > 0 && containsAll(start, contain) ? refine(outline, start, { ratio, contain }) : null;
    if (refined && areaOf(refined) > areaOf(best) * WORTH_IT) best = refined;
  };
  for (const { at, half } of bestMiddles(outline, ratio)) beginAt(at, half);
  const { width, height } = boundsOf(outline);
  for (let round = 0; round < RESHAPE_ROUNDS; round += 1) {
    const before = best;
    const [x, y] = rectCentre(before);
    for (const [dx, dy] of SET_ASIDE) {
      const at: Point = [x + dx * width, y + dy * height];
      beginAt(at, Math.min(before.width / 2, halfWidthAbout(outline, at, ratio)));
    }
    if (best === before) break;
  }
  return best;
}

/** How far a middle is set aside, in spans of the outline. */
const SET_ASIDE: readonly Point[] = [
  [0.07, 0],
  [-0.07, 0],
  [0, 0.07],
  [0, -0.07],
];

/** Middles of a grid over the outline about which the largest rectangles of a shape lie, the best first. */
function bestMiddles(outline: readonly Point[], ratio: number): readonly { readonly at: Point; readonly half: number }[] {
  const bounds = boundsOf(outline);
  const tried = Array.from({ length: (MIDDLES + 1) ** 2 }, (_, k) => {
    const [i, j] = [k % (MIDDLES + 1), Math.floor(k / (MIDDLES + 1))];
    const at: Point = [bounds.x + (bounds.width * i) / MIDDLES, bounds.y + (bounds.height * j) / MIDDLES];
    return { i, j, at, half: halfToOutline(outline, at, ratio) };
  }).sort((p, q) => q.half - p.half);
  const chosen: typeof tried = [];
  for (const next of tried) {
    if (chosen.length === BEGINNINGS) break;
    const apart = chosen.every((c) => Math.max(Math.abs(next.i - c.i), Math.abs(next.j - c.j)) >= APART);
    if (apart && isInside(outline, next.at)) chosen.push(next);
  }
  return chosen;
}

/** Proportions are changed by this factor, and worth it for this much more area. */
const RESHAPE = 1.02;
const WORTH_IT = 1.0002;
const RESHAPE_ROUNDS = 12;

/**
 * The free programs may stop where only another shape and another place together gain: a little wider and a little taller ones are held
 * and refined, as long as that gives more.
 */
function reshaped(outline: readonly Point[], rect: Rect, contain: readonly Rect[]): Rect {
  let best = rect;
  for (let round = 0; round < RESHAPE_ROUNDS; round += 1) {
    let gained = false;
    for (const times of [RESHAPE, 1 / RESHAPE]) {
      const ratio = (best.width / best.height) * times;
      const inside = rectAround(rectCentre(best), Math.min(best.width, best.height * ratio), Math.min(best.height, best.width / ratio));
      const held = refine(outline, inside, { ratio, contain });
      if (!held || areaOf(held) < areaOf(best) * WORTH_IT) continue;
      best = held;
      gained = true;
    }
    if (gained) continue;
    // no other shape here: perhaps at another place
    const elsewhere = moved(outline, best, best.width / best.height, contain);
    if (elsewhere === best) break;
    best = refine(outline, elsewhere, { contain }) ?? elsewhere;
  }
  return best;
}

/** Proportions tried beside those of the start, times them. */
const OTHER_SHAPES = [0.6, 0.75, 0.88, 1.14, 1.33, 1.67];

function startsFor(outline: readonly Point[], { ratio, centre, contain = [], near }: TrimConstraints): Rect[] {
  if (centre) {
    const starts: Rect[] = [];
    for (const r of ratio ? [ratio] : [1, 0.5, 2, 0.25, 4]) {
      const half = halfWidthAbout(outline, centre, r);
      if (half > 0) starts.push(rectAround(centre, 2 * half, (2 * half) / r));
    }
    return starts;
  }
  if (contain.length > 0) {
    const box = boundsOf(contain.flatMap((k) => [[k.x, k.y] as Point, [k.x + k.width, k.y + k.height] as Point]));
    if (!ratio) return isClear(outline, box) ? [box] : [];
    const [w, h] = [Math.max(box.width, box.height * ratio), Math.max(box.height, box.width / ratio)];
    const starts: Rect[] = [];
    for (let i = 0; i <= 24; i += 1) {
      const s = i / 24;
      const r = { x: box.x - (w - box.width) * s, y: box.y - (h - box.height) * s, width: w, height: h };
      if (isClear(outline, r)) starts.push(r);
    }
    return starts.length > 3 ? [starts[0] as Rect, starts[starts.length >> 1] as Rect, starts[starts.length - 1] as Rect] : starts;
  }
  const start = largestOnGrid(outline, ratio, near);
  if (start && !ratio) {
    // between hollow sides the area may have several maxima over the proportions: the most promising shapes are tried
    const shapes = OTHER_SHAPES.flatMap((times) => largestOnGrid(outline, (times * start.width) / start.height, near) ?? []);
    return [start, ...shapes.sort((p, q) => areaOf(q) - areaOf(p)).slice(0, 2)];
  }
  if (start) return [start];
  // thinner than a cell: start from a speck in the middle
  const middle = rectCentre(boundsOf(outline));
  const half = halfWidthAbout(outline, middle, ratio ?? 1);
  return half > 0 ? [rectAround(middle, 2 * half, (2 * half) / (ratio ?? 1))] : [];
}
