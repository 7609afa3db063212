import { linearProgram, type HalfSpace } from '../linear/linear-program';
import { boundsOf, isInside } from '../picture/polygon';
import { largestOnGrid } from './largest-on-grid';
import { distance, rectAround, rectCentre, type Point, type Rect } from '../picture/point';

/** What a trim must satisfy beside staying inside the outline. */
export interface TrimConstraints {
  /** Width / height; free when absent. */
  readonly ratio?: number | undefined;
  /** The centre is held here. */
  readonly centre?: Point | undefined;
  /** Rectangles that must be contained. */
  readonly contain?: readonly Rect[] | undefined;
  /** The first maximum will do; between hollow sides another may be a little larger. */
  readonly near?: boolean | undefined;
}

const TOLERANCE_PX = 0.01;
const CENTRING_ROUNDS = 8;
/** Kept between the rectangle and the outline: arithmetic noise, far below anything visible. */
const CLEARANCE_PX = 1e-7;

/**
 * Largest axis-parallel rectangle inside a closed polygon, which need not be convex. In a convex one of given proportions it is one
 * linear program. Else a start is found (by that program, or by a grid of cells), then a sequence of linear programs moves the sides
 * against the outline's segments until nothing gains more than 0.01 px.
 *
 * @param outline closed polygon on the plane, px
 * @returns null when the constraints leave no rectangle
 */
export function largestRectangle(outline: readonly Point[], constraints: TrimConstraints = {}): Rect | null {
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

/** Whether a closed polygon never turns back, whichever way it runs round. */
function isConvex(outline: readonly Point[]): boolean {
  let way = 0;
  for (let i = 0; i < outline.length; i += 1) {
    const [a, b, c] = [0, 1, 2].map((k) => outline[(i + k) % outline.length] as Point) as [Point, Point, Point];
    const [ux, uy, vx, vy] = [b[0] - a[0], b[1] - a[1], c[0] - b[0], c[1] - b[1]];
    const turn = ux * vy - uy * vx;
    if (Math.abs(turn) <= 1e-9 * (Math.hypot(ux, uy) * Math.hypot(vx, vy))) continue;
    if (way !== 0 && Math.sign(turn) !== way) return false;
    way = Math.sign(turn);
  }
  return way !== 0;
}

/** The largest rectangle of proportions `ratio` in a convex polygon, of several the one nearest to the plane's origin. */
function insideConvex(outline: readonly Point[], ratio: number, contain: readonly Rect[]): Rect | null {
  const bounds = boundsOf(outline);
  const inner: Point = [0, 1].map((k) => outline.reduce((sum, p) => sum + (p[k] as number), 0) / outline.length) as unknown as Point;
  const half = [
    ...fixedConstraints(contain),
    ...segmentsOf(outline)
      .filter(([a, b]) => distance(a, b) > 1e-9)
      .map((segment) => keptInside(segment, inner)),
  ];
  const span = Math.max(bounds.width, bounds.height);
  const rect = step(rectAround(inner, ratio, 1), half, 2 * span, ratio, undefined);
  if (!rect) return null;
  const place = centred(outline, rect, rect.height / 2 - CLEARANCE_PX, half, ratio);
  return isClear(outline, place) && containsAll(place, contain) ? place : null;
}

const GOLDEN = (Math.sqrt(5) - 1) / 2;

/** Proportions are found to this; the area is flat there. */
const FINEST_LOG_RATIO = 1e-3;

/**
 * The largest rectangle in a convex polygon: over its proportions the area has one maximum (the product of the sides is log-concave), found
 * by golden section.
 */
function freeInConvex(outline: readonly Point[]): Rect | null {
  let best: Rect | null = null;
  const area = (logRatio: number): number => {
    const rect = insideConvex(outline, Math.exp(logRatio), []);
    if (rect && (!best || rect.width * rect.height > best.width * best.height)) best = rect;
    return rect ? rect.width * rect.height : 0;
  };
  let [low, high] = [-4, 4];
  let [p, q] = [high - GOLDEN * (high - low), low + GOLDEN * (high - low)];
  let [areaP, areaQ] = [area(p), area(q)];
  while (high - low > FINEST_LOG_RATIO) {
    if (areaP < areaQ) {
      [low, p, areaP] = [p, q, areaQ];
      q = low + GOLDEN * (high - low);
      areaQ = area(q);
    } else {
      [high, q, areaQ] = [q, p, areaP];
      p = high - GOLDEN * (high - low);
      areaP = area(p);
    }
  }
  return best;
}

/** The half-space of rectangles on the same side of a segment's line as `from`. Variables: left, top, right, bottom. */
function keptInside(segment: Segment, from: Point): HalfSpace {
  const [nx, ny, c] = normalAway(segment, from);
  return { normal: [nx > 0 ? 0 : nx, ny > 0 ? 0 : ny, nx > 0 ? nx : 0, ny > 0 ? ny : 0], limit: c - CLEARANCE_PX };
}

/** Whether no segment of the outline enters the open rectangle, and the rectangle's centre lies inside. */
export function isClear(outline: readonly Point[], rect: Rect, slackPx = 1e-3): boolean {
  return (
    isInside(outline, rectCentre(rect)) &&
    outline.every((a, i) => {
      const b = outline[(i + 1) % outline.length] as Point;
      return boxGap(a, b, rect) >= -slackPx || Math.max(...separations([a, b], rect)) >= -slackPx;
    })
  );
}

/**
 * Half the width of the largest rectangle of proportions `ratio` about a fixed centre, by the scaled Chebyshev distance to the outline.
 * @returns 0 when the centre lies outside
 */
export function halfWidthAbout(outline: readonly Point[], centre: Point, ratio: number): number {
  return isInside(outline, centre) ? halfToOutline(outline, centre, ratio) : 0;
}

/** {@link halfWidthAbout} for a centre that is known to lie inside. */
function halfToOutline(outline: readonly Point[], centre: Point, ratio: number): number {
  let half = Infinity;
  let [ax, ay] = scaledFrom(outline.at(-1) as Point, centre, ratio);
  for (const point of outline) {
    const bx = point[0] - centre[0];
    const by = (point[1] - centre[1]) * ratio;
    // most segments lie farther away than one that was seen already: their box says so
    const x = ax > 0 ? Math.min(ax, bx) : -Math.max(ax, bx);
    const y = ay > 0 ? Math.min(ay, by) : -Math.max(ay, by);
    if (x < half && y < half) half = Math.min(half, chebyshevToSegment(ax, ay, bx, by));
    ax = bx;
    ay = by;
  }
  return Math.max(0, half - CLEARANCE_PX);
}

const scaledFrom = (p: Point, centre: Point, ratio: number): [number, number] => [p[0] - centre[0], (p[1] - centre[1]) * ratio];

/** Smallest max(|x|, |y|) on a segment: at an end, on an axis, or on a diagonal. */
function chebyshevToSegment(px: number, py: number, qx: number, qy: number): number {
  const [dx, dy] = [qx - px, qy - py];
  const at = (numerator: number, denominator: number): number => {
    const t = denominator === 0 ? 0 : Math.min(1, Math.max(0, numerator / denominator));
    return Math.max(Math.abs(px + t * dx), Math.abs(py + t * dy));
  };
  return Math.min(at(0, 1), at(1, 1), at(-px, dx), at(-py, dy), at(py - px, dx - dy), at(-py - px, dx + dy));
}

type Segment = readonly [Point, Point];

const segmentsOf = (outline: readonly Point[]): Segment[] => outline.map((p, i) => [p, outline[(i + 1) % outline.length] as Point]);

/** Widest signed gap between the box of a segment and a rectangle: a quick part of {@link separations}. */
function boxGap(a: Point, b: Point, r: Rect): number {
  return Math.max(
    r.x - Math.max(a[0], b[0]),
    Math.min(a[0], b[0]) - r.x - r.width,
    r.y - Math.max(a[1], b[1]),
    Math.min(a[1], b[1]) - r.y - r.height,
  );
}

/** Signed gaps between a segment and a rectangle: left, right, above, below, along the segment's normal (towards its outside). */
function separations([a, b]: Segment, r: Rect): [number, number, number, number, number] {
  const right = r.x + r.width;
  const bottom = r.y + r.height;
  const [nx, ny, c] = normalAway([a, b], rectCentre(r));
  const reach = nx * (nx > 0 ? right : r.x) + ny * (ny > 0 ? bottom : r.y);
  return [r.x - Math.max(a[0], b[0]), Math.min(a[0], b[0]) - right, r.y - Math.max(a[1], b[1]), Math.min(a[1], b[1]) - bottom, c - reach];
}

/** Unit normal of a segment's line pointing away from `from`, and the line's offset along it. */
function normalAway([a, b]: Segment, from: Point): readonly [number, number, number] {
  const length = Math.hypot(b[0] - a[0], b[1] - a[1]);
  if (length < 1e-12) return [1, 0, -Infinity];
  let [nx, ny] = [(b[1] - a[1]) / length, (a[0] - b[0]) / length];
  let c = nx * a[0] + ny * a[1];
  if (nx * from[0] + ny * from[1] > c) [nx, ny, c] = [-nx, -ny, -c];
  return [nx, ny, c];
}

/** Variables: left, top, right, bottom. */
function refine(outline: readonly Point[], start: Rect, { ratio, centre, contain = [] }: TrimConstraints): Rect | null {
  const segments = segmentsOf(outline);
  const bounds = boundsOf(outline);
  let rect = start;
  let trust = Math.max(bounds.width, bounds.height) / 8;
  const fixed = fixedConstraints(contain);
  for (let round = 0; round < 160 && trust > TOLERANCE_PX / 4; round += 1) {
    const half = [...fixed, ...nearby(segments, rect, trust * 1.5)];
    const next = step(rect, half, trust, ratio, centre);
    if (!next) return isClear(outline, rect) ? rect : null;
    const valid = isClear(outline, next, CLEARANCE_PX / 2);
    const gain = next.width * next.height - rect.width * rect.height;
    const progress = gain / (rect.width + rect.height);
    if (valid && gain > 0) rect = next;
    if (!valid || progress < TOLERANCE_PX || !ratio) trust *= valid && progress > trust * 0.2 ? 1 : 0.6;
    if (ratio && valid && Math.abs(progress) < TOLERANCE_PX / 4) break;
  }
  const half = rect.height / 2 - CLEARANCE_PX;
  for (let round = 0; ratio && !centre && round < CENTRING_ROUNDS; round += 1) {
    // what keeps a segment away changes with the place: a few rounds until nothing moves
    const next = centred(outline, rect, half, [...fixed, ...nearby(segments, rect, Infinity)], ratio);
    const moved = Math.hypot(next.x - rect.x, next.y - rect.y);
    rect = next;
    if (moved < TOLERANCE_PX / 100) break;
  }
  return isClear(outline, rect) && containsAll(rect, contain) ? rect : null;
}

/** Half-spaces that keep a rectangle off the segments within `reach`; the four axis-parallel ones are merged. */
function nearby(segments: readonly Segment[], rect: Rect, reach: number): HalfSpace[] {
  const half: HalfSpace[] = [];
  let [left, right, top, bottom] = [-Infinity, Infinity, -Infinity, Infinity];
  for (const segment of segments) {
    const [a, b] = segment;
    if (boxGap(a, b, rect) > reach) continue;
    const gaps = separations(segment, rect);
    const widest = Math.max(...gaps);
    if (widest > reach) continue;
    switch (gaps.indexOf(widest)) {
      case 0:
        left = Math.max(left, a[0], b[0]);
        break;
      case 1:
        right = Math.min(right, a[0], b[0]);
        break;
      case 2:
        top = Math.max(top, a[1], b[1]);
        break;
      case 3:
        bottom = Math.min(bottom, a[1], b[1]);
        break;
      default:
        half.push(keptInside(segment, rectCentre(rect)));
    }
  }
  if (Number.isFinite(left)) half.push({ normal: [-1, 0, 0, 0], limit: -left - CLEARANCE_PX });
  if (Number.isFinite(right)) half.push({ normal: [0, 0, 1, 0], limit: right - CLEARANCE_PX });
  if (Number.isFinite(top)) half.push({ normal: [0, -1, 0, 0], limit: -top - CLEARANCE_PX });
  if (Number.isFinite(bottom)) half.push({ normal: [0, 0, 0, 1], limit: bottom - CLEARANCE_PX });
  return half;
}

function fixedConstraints(contain: readonly Rect[]): HalfSpace[] {
  const half: HalfSpace[] = [];
  for (const k of contain) {
    half.push({ normal: [1, 0, 0, 0], limit: k.x }, { normal: [0, 1, 0, 0], limit: k.y });
    half.push({ normal: [0, 0, -1, 0], limit: -(k.x + k.width) }, { normal: [0, 0, 0, -1], limit: -(k.y + k.height) });
  }
  return half;
}

/** Of all places where a rectangle of this size fits, the one nearest to the plane's origin (the picture's middle). */
function centred(outline: readonly Point[], rect: Rect, h: number, half: readonly HalfSpace[], ratio: number): Rect {
  const [cx, cy] = rectCentre(rect);
  const spread = Math.max(rect.width, rect.height);
  // variables: centre x, centre y, and what they are off in x and in y
  const place = ({ normal, limit }: HalfSpace): HalfSpace => {
    const [l, t, r, b] = normal as [number, number, number, number];
    return { normal: [l + r, t + b, 0, 0], limit: limit - h * (ratio * (r - l) + (b - t)) };
  };
  const off = [
    [1, 0, -1, 0],
    [-1, 0, -1, 0],
    [0, 1, 0, -1],
    [0, -1, 0, -1],
  ].map((normal) => ({ normal, limit: 0 }));
  const x = linearProgram(
    [0, 0, -1, -1],
    [...half.map(place), ...off],
    [
      [cx - spread, cx + spread],
      [cy - spread, cy + spread],
      [0, Math.abs(cx) + spread],
      [0, Math.abs(cy) + spread],
    ],
  );
  if (!x) return rect;
  const moved = rectAround([x[0] as number, x[1] as number], 2 * ratio * h, 2 * h);
  return isClear(outline, moved, CLEARANCE_PX / 2) ? moved : rect;
}

/** One linear program around `rect`; ratio and centre are eliminated by substitution. */
function step(rect: Rect, half: readonly HalfSpace[], trust: number, ratio: number | undefined, centre: Point | undefined): Rect | null {
  const [cx, cy] = centre ?? rectCentre(rect);
  if (ratio) {
    // variables: centre x, centre y (unless held), half height h: left = cx - ratio h ...
    const h0 = rect.height / 2;
    const map = ({ normal, limit }: HalfSpace): HalfSpace => {
      const [l, t, r, b] = normal as [number, number, number, number];
      const hh = ratio * (r - l) + (b - t);
      return centre ? { normal: [hh], limit: limit - (l + r) * cx - (t + b) * cy } : { normal: [l + r, t + b, hh], limit };
    };
    const boxH: [number, number] = [Math.max(1e-6, h0 - trust), h0 + trust];
    const x = linearProgram(
      centre ? [1] : [0, 0, 1],
      half.map(map),
      centre ? [boxH] : [[cx - trust, cx + trust], [cy - trust, cy + trust], boxH],
    );
    if (!x) return null;
    const h = x[x.length - 1] as number;
    return rectAround(centre ? [cx, cy] : [x[0] as number, x[1] as number], 2 * ratio * h, 2 * h);
  }
  const [w, hgt] = [rect.width, rect.height];
  if (centre) {
    const map = ({ normal, limit }: HalfSpace): HalfSpace => {
      const [l, t, r, b] = normal as [number, number, number, number];
      return { normal: [r - l, b - t], limit: limit - (l + r) * cx - (t + b) * cy };
    };
    const x = linearProgram([2 / w, 2 / hgt], half.map(map), [
      [Math.max(1e-6, w / 2 - trust), w / 2 + trust],
      [Math.max(1e-6, hgt / 2 - trust), hgt / 2 + trust],
    ]);
    return x ? rectAround([cx, cy], 2 * (x[0] as number), 2 * (x[1] as number)) : null;
  }
  const t = Math.min(trust, w / 2.01, hgt / 2.01);
  const x = linearProgram([-1 / w, -1 / hgt, 1 / w, 1 / hgt], half, [
    [rect.x - t, rect.x + t],
    [rect.y - t, rect.y + t],
    [rect.x + w - t, rect.x + w + t],
    [rect.y + hgt - t, rect.y + hgt + t],
  ]);
  if (!x) return null;
  const [l, top, r, b] = x as [number, number, number, number];
  return { x: l, y: top, width: r - l, height: b - top };
}

const containsAll = (rect: Rect, contain: readonly Rect[]): boolean =>
  contain.every(
    (k) =>
      rect.x <= k.x + 1e-6 &&
      rect.y <= k.y + 1e-6 &&
      rect.x + rect.width >= k.x + k.width - 1e-6 &&
      rect.y + rect.height >= k.y + k.height - 1e-6,
  );

/** Proportions tried beside those of the start, times them. */
const OTHER_SHAPES = [0.6, 0.75, 0.88, 1.14, 1.33, 1.67];

function startsFor(outline: readonly Point[], { ratio, centre, contain = [] }: TrimConstraints): Rect[] {
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
  const start = largestOnGrid(outline, ratio);
  if (start && !ratio) {
    // between hollow sides the area may have several maxima over the proportions: the most promising shapes are tried
    const shapes = OTHER_SHAPES.flatMap((times) => largestOnGrid(outline, (times * start.width) / start.height) ?? []);
    return [start, ...shapes.sort((p, q) => areaOf(q) - areaOf(p)).slice(0, 2)];
  }
  if (start) return [start];
  // thinner than a cell: start from a speck in the middle
  const middle = rectCentre(boundsOf(outline));
  const half = halfWidthAbout(outline, middle, ratio ?? 1);
  return half > 0 ? [rectAround(middle, 2 * half, (2 * half) / (ratio ?? 1))] : [];
}
