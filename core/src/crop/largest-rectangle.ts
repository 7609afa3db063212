import { linearProgram, type HalfSpace } from '../linear/linear-program';
import { boundsOf, isInside } from '../picture/polygon';
import { rectAround, rectCentre, type Point, type Rect } from '../picture/point';

/** What a trim must satisfy beside staying inside the outline. */
export interface TrimConstraints {
  /** Width / height; free when absent. */
  readonly ratio?: number | undefined;
  /** The centre is held here. */
  readonly centre?: Point | undefined;
  /** Rectangles that must be contained. */
  readonly contain?: readonly Rect[] | undefined;
}

const CELLS = 256;
const TOLERANCE_PX = 0.01;
const CENTRING_ROUNDS = 8;
/** Kept between the rectangle and the outline: arithmetic noise, far below anything visible. */
const CLEARANCE_PX = 1e-7;

/**
 * Largest axis-parallel rectangle inside a closed polygon, which need not be convex. A grid of cells finds a start, then a sequence of
 * linear programs moves the sides against the outline's segments until nothing gains more than 0.01 px.
 *
 * @param outline closed polygon on the plane, px
 * @returns null when the constraints leave no rectangle
 */
export function largestRectangle(outline: readonly Point[], constraints: TrimConstraints = {}): Rect | null {
  if (outline.length < 3) return null;
  const starts = startsFor(outline, constraints);
  let best: Rect | null = null;
  for (const start of starts) {
    const refined = refine(outline, start, constraints);
    if (refined && (!best || refined.width * refined.height > best.width * best.height)) best = refined;
  }
  return best;
}

/** Whether no segment of the outline enters the open rectangle, and the rectangle's centre lies inside. */
export function isClear(outline: readonly Point[], rect: Rect, slackPx = 1e-3): boolean {
  return isInside(outline, rectCentre(rect)) && segmentsOf(outline).every((s) => Math.max(...separations(s, rect)) >= -slackPx);
}

/**
 * Half the width of the largest rectangle of proportions `ratio` about a fixed centre, by the scaled Chebyshev distance to the outline.
 * @returns 0 when the centre lies outside
 */
export function halfWidthAbout(outline: readonly Point[], centre: Point, ratio: number): number {
  if (!isInside(outline, centre)) return 0;
  let half = Infinity;
  for (const [a, b] of segmentsOf(outline)) {
    const p: Point = [a[0] - centre[0], (a[1] - centre[1]) * ratio];
    const q: Point = [b[0] - centre[0], (b[1] - centre[1]) * ratio];
    half = Math.min(half, chebyshevToSegment(p, q));
  }
  return Math.max(0, half - CLEARANCE_PX);
}

/** Smallest max(|x|, |y|) on a segment. */
function chebyshevToSegment(p: Point, q: Point): number {
  const d: Point = [q[0] - p[0], q[1] - p[1]];
  const candidates = [0, 1];
  const add = (numerator: number, denominator: number): void => {
    if (denominator !== 0) candidates.push(Math.min(1, Math.max(0, numerator / denominator)));
  };
  add(-p[0], d[0]);
  add(-p[1], d[1]);
  add(p[1] - p[0], d[0] - d[1]);
  add(-p[1] - p[0], d[0] + d[1]);
  return Math.min(...candidates.map((t) => Math.max(Math.abs(p[0] + t * d[0]), Math.abs(p[1] + t * d[1]))));
}

type Segment = readonly [Point, Point];

const segmentsOf = (outline: readonly Point[]): Segment[] => outline.map((p, i) => [p, outline[(i + 1) % outline.length] as Point]);

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
      default: {
        const [nx, ny, c] = normalAway(segment, rectCentre(rect));
        half.push({ normal: [nx > 0 ? 0 : nx, ny > 0 ? 0 : ny, nx > 0 ? nx : 0, ny > 0 ? ny : 0], limit: c - CLEARANCE_PX });
      }
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
  return gridStart(outline, ratio);
}

/** Largest rectangle of cells that no segment touches, by the histogram stack; or the largest square of cells scaled by `ratio`. */
function gridStart(outline: readonly Point[], ratio: number | undefined): Rect[] {
  const bounds = boundsOf(outline);
  let [cw, ch] = [bounds.width / CELLS, bounds.height / CELLS];
  if (ratio) {
    ch = Math.max(bounds.width / ratio, bounds.height) / CELLS;
    cw = ch * ratio;
  }
  if (!(cw > 0) || !(ch > 0)) return [];
  const inside = markCells(outline, bounds, cw, ch);
  const best = ratio ? largestSquare(inside) : largestOfCells(inside);
  const cell = ([i, j, w, h]: readonly [number, number, number, number]): Rect => ({
    x: bounds.x + i * cw,
    y: bounds.y + j * ch,
    width: w * cw,
    height: h * ch,
  });
  if (best) return [cell(best)];
  // thinner than a cell: start from a speck in the middle
  const middle = rectCentre(bounds);
  const half = halfWidthAbout(outline, middle, ratio ?? 1);
  return half > 0 ? [rectAround(middle, 2 * half, (2 * half) / (ratio ?? 1))] : [];
}

function markCells(outline: readonly Point[], bounds: Rect, cw: number, ch: number): Uint8Array {
  const cells = new Uint8Array(CELLS * CELLS);
  const touched = new Uint8Array(CELLS * CELLS);
  const clampCell = (v: number): number => Math.min(CELLS - 1, Math.max(0, Math.floor(v)));
  for (const [a, b] of segmentsOf(outline)) {
    const [ax, ay, bx, by] = [(a[0] - bounds.x) / cw, (a[1] - bounds.y) / ch, (b[0] - bounds.x) / cw, (b[1] - bounds.y) / ch];
    const [j0, j1] = [clampCell(Math.min(ay, by) - 1e-9), clampCell(Math.max(ay, by) + 1e-9)];
    for (let j = j0; j <= j1; j += 1) {
      const x0 = xAt(ax, ay, bx, by, j);
      const x1 = xAt(ax, ay, bx, by, j + 1);
      const [i0, i1] = [clampCell(Math.min(x0, x1) - 1e-9), clampCell(Math.max(x0, x1) + 1e-9)];
      for (let i = i0; i <= i1; i += 1) touched[j * CELLS + i] = 1;
    }
  }
  const crossings: number[] = [];
  for (let j = 0; j < CELLS; j += 1) {
    const y = bounds.y + (j + 0.5) * ch;
    crossings.length = 0;
    for (const [a, b] of segmentsOf(outline)) {
      if (a[1] > y !== b[1] > y) crossings.push((a[0] + ((y - a[1]) / (b[1] - a[1])) * (b[0] - a[0]) - bounds.x) / cw);
    }
    crossings.sort((p, q) => p - q);
    for (let k = 0; k + 1 < crossings.length; k += 2) {
      const from = Math.max(0, Math.ceil((crossings[k] as number) - 0.5));
      const to = Math.min(CELLS - 1, Math.floor((crossings[k + 1] as number) - 0.5));
      for (let i = from; i <= to; i += 1) if (!touched[j * CELLS + i]) cells[j * CELLS + i] = 1;
    }
  }
  return cells;
}

/** x of a segment at row boundary `y`, clamped to the segment. */
function xAt(ax: number, ay: number, bx: number, by: number, y: number): number {
  if (ay === by) return y <= ay ? ax : bx;
  const t = Math.min(1, Math.max(0, (y - ay) / (by - ay)));
  return ax + t * (bx - ax);
}

function largestSquare(cells: Uint8Array): readonly [number, number, number, number] | null {
  const side = new Uint16Array(CELLS * CELLS);
  let [best, bi, bj] = [0, 0, 0];
  for (let j = 0; j < CELLS; j += 1) {
    for (let i = 0; i < CELLS; i += 1) {
      const k = j * CELLS + i;
      if (!cells[k]) continue;
      const around = i > 0 && j > 0 ? Math.min(side[k - 1] as number, side[k - CELLS] as number, side[k - CELLS - 1] as number) : 0;
      side[k] = around + 1;
      if (around + 1 > best) [best, bi, bj] = [around + 1, i, j];
    }
  }
  return best > 0 ? [bi - best + 1, bj - best + 1, best, best] : null;
}

function largestOfCells(cells: Uint8Array): readonly [number, number, number, number] | null {
  const heights = new Uint16Array(CELLS + 1);
  let best: readonly [number, number, number, number] | null = null;
  let bestArea = 0;
  for (let j = 0; j < CELLS; j += 1) {
    for (let i = 0; i < CELLS; i += 1) heights[i] = cells[j * CELLS + i] ? (heights[i] as number) + 1 : 0;
    const stack: number[] = [];
    for (let i = 0; i <= CELLS; i += 1) {
      while (stack.length > 0 && (heights[stack[stack.length - 1] as number] as number) >= (heights[i] as number)) {
        const h = heights[stack.pop() as number] as number;
        const left = stack.length > 0 ? (stack[stack.length - 1] as number) + 1 : 0;
        if (h * (i - left) > bestArea) {
          bestArea = h * (i - left);
          best = [left, j - h + 1, i - left, h];
        }
      }
      stack.push(i);
    }
  }
  return best;
}
