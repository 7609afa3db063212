import { linearProgram, type HalfSpace } from '../linear/linear-program';
import { rectAround, rectCentre, type Point, type Rect } from '../picture/point';
import { boundsOf } from '../picture/polygon';
import { boxGap, CLEARANCE_PX, isClear, normalAway, segmentsOf, separations, type Segment } from './inside-outline';

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

/** The half-space of rectangles on the same side of a segment's line as `from`. Variables: left, top, right, bottom. */
export function keptInside(segment: Segment, from: Point): HalfSpace {
  const [nx, ny, c] = normalAway(segment, from);
  return { normal: [nx > 0 ? 0 : nx, ny > 0 ? 0 : ny, nx > 0 ? nx : 0, ny > 0 ? ny : 0], limit: c - CLEARANCE_PX };
}

/**
 * A rectangle inside the outline, moved against its segments by linear programs until that gains no more than 0.01 px; the first maximum.
 *
 * @param reachPx by how much the first program may move a side; an eighth of the outline's span where nothing is said
 * @returns null when the start is not clear, or does not hold what it must
 */
export function refine(
  outline: readonly Point[],
  start: Rect,
  { ratio, centre, contain = [] }: TrimConstraints,
  reachPx?: number,
): Rect | null {
  const segments = segmentsOf(outline);
  const bounds = boundsOf(outline);
  let rect = start;
  let trust = reachPx ?? Math.max(bounds.width, bounds.height) / 8;
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

export function fixedConstraints(contain: readonly Rect[]): HalfSpace[] {
  const half: HalfSpace[] = [];
  for (const k of contain) {
    half.push({ normal: [1, 0, 0, 0], limit: k.x }, { normal: [0, 1, 0, 0], limit: k.y });
    half.push({ normal: [0, 0, -1, 0], limit: -(k.x + k.width) }, { normal: [0, 0, 0, -1], limit: -(k.y + k.height) });
  }
  return half;
}

/** Of all places where a rectangle of this size fits, the one nearest to the plane's origin (the picture's middle). */
export function centred(outline: readonly Point[], rect: Rect, h: number, half: readonly HalfSpace[], ratio: number): Rect {
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
export function step(
  rect: Rect,
  half: readonly HalfSpace[],
  trust: number,
  ratio: number | undefined,
  centre: Point | undefined,
): Rect | null {
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

export const containsAll = (rect: Rect, contain: readonly Rect[]): boolean =>
  contain.every(
    (k) =>
      rect.x <= k.x + 1e-6 &&
      rect.y <= k.y + 1e-6 &&
      rect.x + rect.width >= k.x + k.width - 1e-6 &&
      rect.y + rect.height >= k.y + k.height - 1e-6,
  );
