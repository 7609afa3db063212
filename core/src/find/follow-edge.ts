import { bestLine } from '../lens/bow';
import { LensFoldsError } from '../lens/lens-map';
import { usualBend, type LikelyBend } from '../lens/likely-bend';
import { radialLens } from '../lens/radial';
import { distance, type Point, type Size } from '../picture/point';
import { largestSample, type Raster } from '../raster/raster';
import { frameOf, LEAST_CONTRAST, stepAcross, weightedPolynomial } from './across-edge';
import { brightnessOf, type Brightness } from './brightness';
import type { EdgeFit } from './edge-fit';

/** An edge followed between two points. */
export interface FollowedEdge {
  /** Beads on the edge from one end to the other, sub-pixel; picture px. */
  readonly points: readonly Point[];
  /** Mean step of brightness across the edge, 0..1. */
  readonly contrast: number;
  /** Standard deviation of its bow by how far its course departs from what a lens does to one straight edge, px. */
  readonly bowSdPx: number;
}

/** The curve is sought where the edge is about this long, px. */
const COARSE_LENGTH = 420;
/** Farthest that an end may lie off at the coarse level, px. */
const MOST_END_OFF = 10;
const POINTING_SHARE = 0.4;
const MOST_SECTIONS = 320;
/** Share of the cross-sections that must lie on the curve. */
const LEAST_SHARE = 0.5;
/** What the true curve may differ by from the searched one: powers along the edge. */
const DEGREE = 2;
/** Deviations of the bend that are searched to either side, and the widest bends of all. */
const BEND_REACH = 2.5;
const BENDS: readonly [number, number] = [-0.16, 0.12];
/** Stretches along which brightness steps one way: where tiles meet it steps this way and that. */
const STRETCHES = 24;
/** An edge steps one way all along when this share of it does. */
const ONE_WAY = 0.5;
/** Nodes of a curve along the edge. */
const NODES = 128;

/** An edge's course beside its chord: offsets at NODES + 1 places, px of the level. */
type Course = Float64Array;
const courseAt = (course: Course, t: number): number => {
  const u = Math.min(NODES - 1e-9, Math.max(0, t * NODES));
  const i = Math.floor(u);
  return (course[i] as number) + ((course[i + 1] as number) - (course[i] as number)) * (u - i);
};

/**
 * Follows an edge that a lens may have bent from one end to the other: both ends and the lens's bend are found by exhaustion on a coarse
 * level, then the curve is fitted finer and finer. Straight things bend as a lens bends
 * them: that leaves one unknown where a free curve would have many and follow whatever lies near.
 *
 * @param levels the original first, then each half the size of the one before
 * @param reachPx how far the ends may lie off the edge, picture px
 * @returns null where there is no such edge
 */
export function followEdge(
  levels: readonly Raster[],
  a: Point,
  b: Point,
  reachPx: number,
  bend: LikelyBend | null = null,
): FollowedEdge | null {
  const first = levels[0];
  const length = distance(a, b);
  if (!first || length < 24) return null;
  const top = largestSample(first);
  let level = 0;
  while (level + 1 < levels.length && (length / 2 ** level > COARSE_LENGTH || reachPx / 2 ** level > MOST_END_OFF)) level += 1;
  const scaleOf = (of: number): number => (levels[of] as Raster).width / first.width;
  const ends = (of: number): readonly [Point, Point] => {
    const s = scaleOf(of);
    return [
      [a[0] * s, a[1] * s],
      [b[0] * s, b[1] * s],
    ];
  };
  const likely = bend ?? usualBend([first.width / 2, first.height / 2]);
  const bends = courses(a, b, first, likely, scaleOf(level));
  const start = coarseCourse(brightnessOf(levels[level] as Raster, top), ...ends(level), Math.max(1.5, reachPx * scaleOf(level)), bends);
  if (!start) return null;
  let { course } = start;
  let followed: Followed | null = null;
  for (; level >= 0; level -= 1) {
    const brightness = brightnessOf(levels[level] as Raster, top);
    for (const window of level === 0 ? [3, 2] : [2.5]) {
      followed = follow(brightness, ...ends(level), course, start.signs, window);
      if (!followed) return null;
      course = followed.course;
    }
    const growth = level > 0 ? scaleOf(level - 1) / scaleOf(level) : 1;
    course = course.map((o) => o * growth);
  }
  if (!followed || followed.contrast < LEAST_CONTRAST || followed.share < LEAST_SHARE) return null;
  return { points: beads(a, b, followed), contrast: followed.contrast, bowSdPx: bowDeviation(followed) };
}

/** A followed edge as a straight line near a drawn one: its best line between the drawn ends, and by how much it bows. */
export function fitOfFollowed({ points, contrast, bowSdPx }: FollowedEdge, a: Point, b: Point): EdgeFit {
  const { normal, c } = bestLine(points);
  const onto = (p: Point): Point => {
    const off = normal[0] * p[0] + normal[1] * p[1] - c;
    return [p[0] - off * normal[0], p[1] - off * normal[1]];
  };
  const [p, q, first, last] = [onto(a), onto(b), points[0] as Point, points.at(-1) as Point];
  const frame = frameOf(a, b);
  const across = (at: Point): number => (at[0] - a[0]) * frame.normal[0] + (at[1] - a[1]) * frame.normal[1];
  const middle = points[points.length >> 1] as Point;
  return {
    a: p,
    b: q,
    bowPx: Math.max(...points.map((at) => Math.abs(normal[0] * at[0] + normal[1] * at[1] - c))),
    bendPx: across(middle) - (across(first) + across(last)) / 2,
    share: 1,
    sdPx: bowSdPx,
    offPx: (across(p) + across(q)) / 2,
    contrast,
  };
}

interface BentCourse {
  readonly course: Course;
  readonly likely: number;
}

/** The courses of a straight thing between two points under bends from the likeliest outwards, about a coarse pixel apart. */
function courses(a: Point, b: Point, size: Size, { centre, k1, sd }: LikelyBend, scale: number): BentCourse[] {
  const [low, high] = [Math.max(BENDS[0], k1 - BEND_REACH * sd), Math.min(BENDS[1], k1 + BEND_REACH * sd)];
  const of = (k: number): Course | null => bentCourse(a, b, size, centre, k, scale);
  const [p, q] = [of(low), of(high)];
  const spread = p && q ? Math.max(...p.map((o, i) => Math.abs(o - (q[i] as number)))) : 40;
  const step = (high - low) / Math.min(80, Math.max(1, spread));
  const from = -Math.floor((k1 - low) / step);
  return Array.from({ length: 1 - from + Math.floor((high - k1) / step) }, (_, i) => k1 + (from + i) * step).flatMap((k) => {
    const course = of(k);
    return course ? [{ course, likely: Math.exp(-0.5 * ((k - k1) / sd) ** 2) }] : [];
  });
}

/** A straight thing's course beside its chord under the radial model with one coefficient; null where that folds. */
function bentCourse(a: Point, b: Point, size: Size, [cx, cy]: Point, k1: number, scale: number): Course | null {
  try {
    const lens = radialLens({ cx, cy, k1, k2: 0 }, size);
    const out = new Float64Array(2);
    const ideal = ([x, y]: Point): Point | null => (lens.undistort(x, y, out) ? [out[0] as number, out[1] as number] : null);
    const [p, q] = [ideal(a), ideal(b)];
    if (!p || !q) return null;
    const { along, normal, length } = frameOf(a, b);
    const course = new Float64Array(NODES + 1);
    let [t0, o0, node] = [0, 0, 0];
    for (let i = 1; i <= 2 * NODES; i += 1) {
      const s = i / (2 * NODES);
      if (!lens.distort(p[0] + (q[0] - p[0]) * s, p[1] + (q[1] - p[1]) * s, out)) return null;
      const [dx, dy] = [(out[0] as number) - a[0], (out[1] as number) - a[1]];
      const t = (dx * along[0] + dy * along[1]) / length;
      const o = (dx * normal[0] + dy * normal[1]) * scale;
      for (; node <= NODES && node / NODES <= t; node += 1) course[node] = o0 + ((o - o0) * (node / NODES - t0)) / (t - t0 || 1);
      [t0, o0] = [t, o];
    }
    return course;
  } catch (error) {
    if (error instanceof LensFoldsError) return null;
    throw error;
  }
}

/** The likeliest course: the bend, and how far off both ends are, along which brightness steps most. */
function coarseCourse(
  brightness: Brightness,
  a: Point,
  b: Point,
  reach: number,
  bends: readonly BentCourse[],
): { course: Course; signs: readonly number[] } | null {
  const { along, normal, length } = frameOf(a, b);
  const samples = Math.min(120, Math.max(20, Math.round(length / 3)));
  const end = Math.ceil(reach);
  const bow = Math.ceil(Math.max(0, ...bends.map(({ course }) => Math.max(...course.map(Math.abs)))));
  const half = end + bow + 1;
  const count = 2 * half + 1;
  const steps = new Float32Array(samples * count);
  for (let i = 0; i < samples; i += 1) {
    const t = ((i + 0.5) / samples) * length;
    const [px, py] = [a[0] + along[0] * t, a[1] + along[1] * t];
    for (let k = 0; k < count; k += 1) {
      const o = k - half;
      const g =
        brightness(px + normal[0] * (o + 1), py + normal[1] * (o + 1)) - brightness(px + normal[0] * (o - 1), py + normal[1] * (o - 1));
      // clipped, so that a few strong steps elsewhere do not outvote an edge that runs all along
      steps[i * count + k] = Math.max(-0.25, Math.min(0.25, g));
    }
  }
  const likelyEnd = (k: number): number => Math.exp(-0.5 * (k / reach / POINTING_SHARE) ** 2);
  const sums = new Float64Array(STRETCHES);
  const stretchOf = Uint8Array.from({ length: samples }, (_, i) => Math.floor((i * STRETCHES) / samples));
  let best = { value: 0, k0: 0, k1: 0, signs: [] as readonly number[], course: new Float64Array(NODES + 1) as Course };
  for (const { course, likely } of bends) {
    const offsets = Float64Array.from({ length: samples }, (_, i) => courseAt(course, (i + 0.5) / samples));
    for (let k0 = -end; k0 <= end; k0 += 1) {
      for (let k1 = -end; k1 <= end; k1 += 1) {
        const weight = likely * likelyEnd(k0) * likelyEnd(k1);
        if (weight < 1e-3) continue;
        sums.fill(0);
        for (let i = 0; i < samples; i += 1) {
          const k = half + Math.round((offsets[i] as number) + k0 + ((k1 - k0) * (i + 0.5)) / samples);
          const stretch = stretchOf[i] as number;
          sums[stretch] = (sums[stretch] as number) + (steps[i * count + k] as number);
        }
        let total = 0;
        for (let w = 0; w < STRETCHES; w += 1) total += Math.abs(sums[w] as number);
        const value = (total / samples) * weight;
        if (value > best.value) best = { value, k0, k1, signs: signsOf(sums, total), course };
      }
    }
  }
  if (best.value < LEAST_CONTRAST / 4) return null;
  const { k0, k1, signs } = best;
  return { course: best.course.map((o, i) => o + k0 + ((k1 - k0) * i) / NODES), signs };
}

/** Which way brightness steps in each stretch: all alike, unless it goes this way and that as where tiles meet. */
function signsOf(sums: Float64Array, total: number): readonly number[] {
  const whole = sums.reduce((sum, v) => sum + v, 0);
  return Array.from(sums, (v) => Math.sign(Math.abs(whole) >= ONE_WAY * total ? whole : v) || 1);
}

interface Followed {
  readonly course: Course;
  readonly kept: readonly { readonly t: number; readonly o: number; readonly w: number }[];
  readonly share: number;
  readonly contrast: number;
}

/** One round of the fine fit: where each cross-section's step has its middle, and the curve through them without outliers. */
function follow(brightness: Brightness, a: Point, b: Point, from: Course, signs: readonly number[], window: number): Followed | null {
  const { along, normal, length } = frameOf(a, b);
  const sections = Math.min(MOST_SECTIONS, Math.max(24, Math.round(length / 2)));
  const points: { t: number; o: number; w: number; base: number }[] = [];
  for (let i = 0; i < sections; i += 1) {
    const t = (i + 0.5) / sections;
    const base = courseAt(from, t);
    const [px, py] = [a[0] + along[0] * t * length + normal[0] * base, a[1] + along[1] * t * length + normal[1] * base];
    const sign = signs[Math.floor(t * STRETCHES)] as number;
    const step = stepAcross(brightness, px, py, normal, sign, window);
    if (step) points.push({ t, base, ...step });
  }
  let kept = points;
  let powers: readonly number[] = [];
  const at = (t: number): number => powers.reduceRight((sum, c) => sum * t + c, 0);
  for (let round = 0; round < 4; round += 1) {
    if (kept.length < 12) return null;
    const solved = weightedPolynomial(kept, DEGREE);
    if (!solved?.every(Number.isFinite)) return null;
    powers = solved;
    const off = (p: { t: number; o: number }): number => Math.abs(p.o - at(p.t));
    const sorted = kept.map(off).sort((p, q) => p - q);
    const limit = Math.max(0.2, 3 * (sorted[sorted.length >> 1] as number));
    kept = points.filter((p) => off(p) <= limit);
  }
  return {
    course: from.map((o, i) => o + at(i / NODES)),
    kept: kept.map(({ t, o, w, base }) => ({ t, o: o + base, w })),
    share: kept.length / sections,
    contrast: kept.reduce((sum, p) => sum + p.w, 0) / sections,
  };
}

/** A course that departs from a parabola by more than this, px, hardly is one edge: how far off its bow is grows faster from there. */
const STRAYING_PX = 0.25;
/** Errors of the bow over that departure, measured on the engine hall's known edges. */
const BOW_OVER_STRAYING = 1.5;
/** Sections that scatter about their course by more than this, px, hardly are of one edge; errors of the bow over the square of that. */
const SCATTERING_PX = 0.6;
const BOW_OVER_SCATTER = 1.2;
/** No bow is better known than this, px. */
const LEAST_BOW_SD_PX = 0.04;

/**
 * How sure the bow of a followed course is. One edge that a lens bent is a parabola to a few hundredths; where it goes from one edge to
 * another, or along what hides it, a polynomial of the fourth degree follows it elsewhere.
 */
function bowDeviation({ kept }: Followed): number {
  const [two, four] = [2, 4].map((degree) => weightedPolynomial(kept, degree));
  if (!two || !four?.every(Number.isFinite)) return STRAYING_PX * BOW_OVER_STRAYING;
  const at = (powers: readonly number[], t: number): number => powers.reduceRight((sum, c) => sum * t + c, 0);
  let strays = 0;
  for (let t = 0.02; t < 1; t += 0.02) strays = Math.max(strays, Math.abs(at(two, t) - at(four, t)));
  const scatter = Math.sqrt(kept.reduce((sum, { t, o }) => sum + (o - at(two, t)) ** 2, 0) / kept.length);
  return Math.hypot(
    LEAST_BOW_SD_PX,
    BOW_OVER_STRAYING * strays * Math.max(1, (strays / STRAYING_PX) ** 2),
    BOW_OVER_SCATTER * scatter ** 2 * Math.max(1, (scatter / SCATTERING_PX) ** 2),
  );
}

const BEAD_EVERY_PX = 100;
const MOST_BEADS = 20;
const LEAST_BEADS = 6;

/** The cross-sections gathered into beads: each the mean of those about it. */
function beads(a: Point, b: Point, { kept }: Followed): Point[] {
  const { along, normal, length } = frameOf(a, b);
  const count = Math.min(MOST_BEADS, Math.max(LEAST_BEADS, Math.round(length / BEAD_EVERY_PX)));
  const sums = Array.from({ length: count }, () => ({ w: 0, t: 0, o: 0 }));
  for (const { t, o, w } of kept) {
    const s = sums[Math.min(count - 1, Math.floor(t * count))] as { w: number; t: number; o: number };
    s.w += w;
    s.t += w * t;
    s.o += w * o;
  }
  return sums
    .filter((s) => s.w > 0)
    .map(({ w, t, o }) => [
      a[0] + along[0] * (t / w) * length + normal[0] * (o / w),
      a[1] + along[1] * (t / w) * length + normal[1] * (o / w),
    ]);
}
