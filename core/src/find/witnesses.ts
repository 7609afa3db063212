import type { Correction } from '../correction/schema';
import { degrees, diagonal, distance, type Point } from '../picture/point';
import { throughLens } from '../stance/through-lens';
import { weightedPolynomial } from './across-edge';
import { settleStretch } from './edge-fit';
import type { Grey } from './brightness';
import { findSegments } from './segments';

/** A straight edge of the picture that speaks for itself: what lies beside it, the other side of the same bar or joint, does not count again. */
export interface Witness {
  /** Ends in picture px. */
  readonly a: Point;
  readonly b: Point;
  /** Ends with the lens taken out, turned ideal px. */
  readonly p: Point;
  readonly q: Point;
  /** Between p and q, px. */
  readonly length: number;
  /** Standard deviation of an end across it, and its bow without the lens, positive to the right of its way; px. */
  readonly sdPx: number;
  readonly bowPx: number;
}

/** Shorter ones are left out, as a share of the diagonal (measured: shorter ones are mostly leaves and grain). */
const LEAST_LENGTH = 0.018;
/** What is shorter than this where they are sought, px, is no line. */
const LEAST_PX = 12;
/** At most so many steep and flat ones are fitted, the longest first: courses of bricks must not crowd out what stands. */
const MOST_STEEP = 260;
const MOST_FLAT = 140;
/** An edge is there along this share of what was found. */
const LEAST_SHARE = 0.4;
/** Farther than this no stretch moves onto its edge, px of the level. */
const MOST_MOVED_PX = 3;
/** No edge is better known than this while searching, px of the level: what blur, grain and other things near it leave (measured on made-up places). */
const LEAST_SD_PX = 0.045;
/** One continues another when it lies on it but for so much, px of the level, and no farther on than this share of its length. */
const ON_LINE_PX = 1;
const GOES_ON = 0.5;
/** Lines beside each other within this share of the diagonal and this angle are the sides of one thing. */
const BESIDE = 0.004;
const BESIDE_DEG = 1.5;

/**
 * The straight edges of a picture, independent of each other, the longest first.
 *
 * @param level brightness of the picture, or of a smaller copy of it, in which edges are fitted
 * @param smooth the same, or a smaller copy still, smoothed: in it they are sought
 * @param correction of the picture; its lens and quarter turns are used
 * @returns none where the picture shows nothing straight
 */
export function findWitnesses(level: Grey, smooth: Grey, correction: Correction): Witness[] {
  const size = correction.picture;
  if (Math.min(level.width, level.height) < 16) return [];
  const scale = size.width / level.width;
  const larger = level.width / smooth.width;
  const up = ([x, y]: Point, by: number): Point => [x * by, y * by];
  const stretches = findSegments(smooth, Math.max(LEAST_PX, LEAST_LENGTH * diagonal(smooth)))
    .map(({ a, b }) => ({ a: up(a, larger), b: up(b, larger) }))
    .sort((s, t) => distance(t.a, t.b) - distance(s.a, s.b));
  const steep = stretches.filter(({ a, b }) => Math.abs(b[1] - a[1]) > Math.abs(b[0] - a[0]));
  const flat = stretches.filter((stretch) => !steep.includes(stretch));
  const toIdeal = throughLens(correction, size);
  const fitted = [...steep.slice(0, MOST_STEEP), ...flat.slice(0, MOST_FLAT)].flatMap((stretch): Witness[] => {
    const fit = settleStretch(level, stretch.a, stretch.b);
    if (!fit || fit.share < LEAST_SHARE) return [];
    // what went elsewhere was no edge of its own
    if (Math.max(distance(fit.a, stretch.a), distance(fit.b, stretch.b)) > MOST_MOVED_PX) return [];
    return witness(up(fit.a, scale), up(fit.b, scale), scale * Math.hypot(fit.sdPx, LEAST_SD_PX), scale * fit.bendPx, toIdeal);
  });
  return independent(joined(fitted, scale, toIdeal), BESIDE * diagonal(size));
}

function witness(a: Point, b: Point, sdPx: number, bowPx: number, toIdeal: (p: Point) => Point | null): Witness[] {
  const along = distance(a, b);
  const [nx, ny] = [(-(b[1] - a[1]) * bowPx) / along, ((b[0] - a[0]) * bowPx) / along];
  const [p, m, q] = [a, [(a[0] + b[0]) / 2 + nx, (a[1] + b[1]) / 2 + ny] as const, b].map((at) => toIdeal(at as Point));
  if (!p || !m || !q) return [];
  const length = distance(p, q);
  // what is left of the bow once the lens is taken out
  const bow = ((q[0] - p[0]) * (m[1] - p[1]) - (q[1] - p[1]) * (m[0] - p[0])) / length;
  return [{ a, b, p, q, length, sdPx, bowPx: bow }];
}

/** How a point lies to a line: along it from its first end, and to its right. */
function against({ p, q, length }: Witness, [x, y]: Point): Point {
  const [ux, uy] = [(q[0] - p[0]) / length, (q[1] - p[1]) / length];
  const [dx, dy] = [x - p[0], y - p[1]];
  return [dx * ux + dy * uy, dy * ux - dx * uy];
}

/** Stretches that continue each other made one; each was given the brighter side on its right. */
function joined(all: readonly Witness[], scale: number, toIdeal: (p: Point) => Point | null): Witness[] {
  const sorted = [...all].sort((s, t) => t.length - s.length);
  const gone = new Set<Witness>();
  return sorted.flatMap((long): Witness[] => {
    if (gone.has(long)) return [];
    let line = long;
    let parts = [long];
    // nearest first: what goes on from what went on
    for (let again = true; again;) {
      again = false;
      for (const other of sorted) {
        if (gone.has(other) || parts.includes(other)) continue;
        const [[s, o], [t, r]] = [against(line, other.p), against(line, other.q)];
        if (t <= s) continue;
        const gap = Math.max(0, s - line.length, -t);
        if (gap > GOES_ON * Math.max(line.length, other.length)) continue;
        const off = scale * ON_LINE_PX + (gap / line.length) * Math.SQRT2 * line.sdPx;
        if (Math.abs(o) > off || Math.abs(r) > off) continue;
        const together = through([...parts, other], toIdeal);
        if (!together) continue;
        parts = [...parts, other];
        line = together;
        gone.add(other);
        again = true;
      }
    }
    gone.add(long);
    return [line];
  });
}

/** One line through stretches, each counting by its length; null where the lens has no image of it. */
function through(parts: readonly Witness[], toIdeal: (p: Point) => Point | null): Witness | null {
  const ends = parts.flatMap(({ a, b, length }) => [
    { at: a, w: length },
    { at: b, w: length },
  ]);
  const total = ends.reduce((sum, { w }) => sum + w, 0);
  const mean = (of: (p: Point) => number): number => ends.reduce((sum, { at, w }) => sum + w * of(at), 0) / total;
  const [mx, my] = [mean((p) => p[0]), mean((p) => p[1])];
  const [xx, yy, xy] = [mean((p) => (p[0] - mx) ** 2), mean((p) => (p[1] - my) ** 2), mean((p) => (p[0] - mx) * (p[1] - my))];
  const axis = 0.5 * Math.atan2(2 * xy, xx - yy);
  const { a, b } = parts[0] as Witness;
  const sign = Math.sign(Math.cos(axis) * (b[0] - a[0]) + Math.sin(axis) * (b[1] - a[1])) || 1;
  const [ux, uy] = [sign * Math.cos(axis), sign * Math.sin(axis)];
  const along = ends.map(({ at }) => (at[0] - mx) * ux + (at[1] - my) * uy);
  const on = (l: number): Point => [mx + ux * l, my + uy * l];
  const sdPx = Math.max(...parts.map((part) => part.sdPx));
  // the bow of the whole: the parabola through the ends of its parts
  const length = Math.max(...along) - Math.min(...along);
  const points = ends.map(({ at, w }, i) => ({ t: (along[i] as number) / length, o: (at[1] - my) * ux - (at[0] - mx) * uy, w }));
  const bowPx = -(weightedPolynomial(points, 2)?.[2] ?? 0) / 4;
  return witness(on(Math.min(...along)), on(Math.max(...along)), sdPx, bowPx, toIdeal)[0] ?? null;
}

/** The angle between two lines, degrees, 0..90. */
function between(s: Witness, t: Witness): number {
  const [ux, uy, vx, vy] = [s.q[0] - s.p[0], s.q[1] - s.p[1], t.q[0] - t.p[0], t.q[1] - t.p[1]];
  return degrees(Math.atan2(Math.abs(ux * vy - uy * vx), Math.abs(ux * vx + uy * vy)));
}

/** The longest of each bundle of lines beside each other. */
function independent(all: readonly Witness[], nearPx: number): Witness[] {
  const kept: Witness[] = [];
  for (const line of [...all].sort((s, t) => t.length - s.length)) {
    const beside = kept.some((other) => {
      if (between(line, other) > BESIDE_DEG) return false;
      const [[s, o], [t, r]] = [against(other, line.p), against(other, line.q)];
      if (Math.abs(o) > nearPx || Math.abs(r) > nearPx) return false;
      const overlap = Math.min(other.length, Math.max(s, t)) - Math.max(0, Math.min(s, t));
      return overlap > 0.5 * line.length;
    });
    if (!beside) kept.push(line);
  }
  return kept;
}
