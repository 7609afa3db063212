import { distance, type Point } from '../picture/point';
import { largestSample, type Raster } from '../raster/raster';
import { frameOf, LEAST_CONTRAST, stepAcross, weightedPolynomial } from './across-edge';
import { brightnessOf, type Brightness, type Grey } from './brightness';

/** A real edge near a drawn line. */
export interface EdgeFit {
  /** The drawn ends, moved square to the line onto the edge; picture px. */
  readonly a: Point;
  readonly b: Point;
  /** Greatest distance of the edge from its best-fitting line, px. */
  readonly bowPx: number;
  /** How far the edge's middle departs from the chord between its ends, px; positive to the right of the way from a to b. */
  readonly bendPx: number;
  /** Share of the line along which there is that edge, 0..1; only this part was counted. */
  readonly share: number;
  /** Standard deviation of an end across the line, by how the edge scatters and by how little of it there is, px. */
  readonly sdPx: number;
  /** How far the drawn line was off at its middle, px, signed along its normal. */
  readonly offPx: number;
  /** Mean step of brightness across the edge, 0..1. */
  readonly contrast: number;
}

/** An edge along which brightness steps one way. */
export interface SteppedEdge extends EdgeFit {
  /** 1 where its brighter side is on the right of the way from a to b (as seen), else -1. */
  readonly sign: number;
}

/** Largest reach at the level on which candidates are sought, px of that level. */
const COARSE_REACH = 26;
const COARSE_STEP = 0.5;
/**
 * How far the drawn ends lie off the edge that was meant, as a share of the reach: standard deviation of a normal distribution. Measured
 * on the demo pictures: with it the edge that was meant comes first more often than with flatter or narrower ones.
 */
const POINTING_SHARE = 0.3;
const MOST_CANDIDATES = 5;
/** A line with an edge along less than this does not lie on it. */
export const LEAST_SHARE = 0.5;
/** A cross-section is on the edge within this of its curve, px, with so much of the edge's usual contrast, among neighbours that mostly are. */
const ON_EDGE_PX = 0.8;
const ON_EDGE_CONTRAST = 0.3;
const NEIGHBOURS = 3;
const MOSTLY = 0.6;
const BY_CHANCE = 0.15;
/** Errors beyond what sections scatter by, as a factor, measured over blurred, noisy and half hidden edges; over the share that is seen. */
const MORE_THAN_SCATTER = 1.2;
/** Neighbouring cross-sections see the same pixels. */
const MOST_ALIKE = 0.9;
/** No edge of a picture is better known than this, px (a matter of judgement). */
const LEAST_SD_PX = 0.03;
/** How far an edge is sought to either side on the original, px, round after round; it has settled when it moves by less than this. */
const FINE_WINDOWS: readonly number[] = [2.5, 2, 1.5, 1.5, 1.5, 1.5, 1.5, 1.5];
const SETTLED_PX = 0.01;
/** What is still to go when the last round moved by so much (a matter of judgement). */
const STILL_TO_GO = 2;

/** How finely a line is settled: cross-sections at most; how far its edge is sought to either side, round after round; what is settled, px. */
interface HowFine {
  readonly most: number;
  readonly windows: readonly number[];
  readonly settledPx: number;
}
const FINELY: HowFine = { most: 240, windows: FINE_WINDOWS, settledPx: SETTLED_PX };
/** One of hundreds, while searching. */
const QUICKLY: HowFine = { most: 32, windows: [2.5, 1.5, 1.5, 1.5, 1.5], settledPx: 2 * SETTLED_PX };

/**
 * Edges near a drawn line, the likeliest first: fitted to sub-pixel accuracy along the line's whole length, brightness stepping the same
 * way all along.
 *
 * @param levels the original first, then each half the size of the one before
 * @param reachPx how far an edge may lie from the drawn line, picture px
 * @returns an empty list where there is no edge
 */
export function fitEdges(levels: readonly Raster[], a: Point, b: Point, reachPx: number): SteppedEdge[] {
  const first = levels[0];
  if (!first || Math.hypot(b[0] - a[0], b[1] - a[1]) < 12) return [];
  let coarse = 0;
  while (coarse + 1 < levels.length && reachPx / 2 ** coarse > COARSE_REACH) coarse += 1;
  const top = largestSample(first);
  const seen = levels
    .slice(0, coarse + 1)
    .map((level): Level => ({ scale: level.width / first.width, brightness: brightnessOf(level, top) }));
  const { scale, brightness } = seen[coarse] as Level;
  const fits: SteppedEdge[] = [];
  for (const candidate of candidates(brightness, scaled(a, scale), scaled(b, scale), reachPx * scale)) {
    const from = [scaled(candidate.ends[0], 1 / scale), scaled(candidate.ends[1], 1 / scale)] as const;
    const { ends, fine, moved } = settle(seen, from, candidate.sign);
    if (!fine || fine.contrast < LEAST_CONTRAST) continue;
    const placed = ontoLine(a, b, ends);
    const { normal } = frameOf(a, b);
    const offPx =
      ((placed[0][0] + placed[1][0] - a[0] - b[0]) / 2) * normal[0] + ((placed[0][1] + placed[1][1] - a[1] - b[1]) / 2) * normal[1];
    const same = fits.some(
      (f) => Math.hypot(f.a[0] - placed[0][0], f.a[1] - placed[0][1]) + Math.hypot(f.b[0] - placed[1][0], f.b[1] - placed[1][1]) < 1,
    );
    if (!same && Math.abs(offPx) <= reachPx * 1.2)
      fits.push({
        a: placed[0],
        b: placed[1],
        bowPx: fine.bowPx,
        bendPx: fine.bendPx,
        share: fine.share,
        sdPx: Math.hypot(fine.sdPx, STILL_TO_GO * moved),
        offPx,
        contrast: fine.contrast,
        sign: candidate.sign,
      });
    if (fits.length >= MOST_CANDIDATES) break;
  }
  return fits;
}

const scaled = ([x, y]: Point, s: number): Point => [x * s, y * s];

/** A level as it is looked at: its size in terms of the original's, and its brightness. */
interface Level {
  readonly scale: number;
  readonly brightness: Brightness;
}

interface Settled {
  readonly ends: readonly [Point, Point];
  readonly fine: Refined | null;
  /** By how much the last round still moved it, picture px. */
  readonly moved: number;
}

/**
 * A line that lies on an edge but for a pixel or two of the coarsest level, settled on it from that level down to the first; picture px.
 *
 * @param sign which way brightness steps: 1 where the brighter side is on the right of the way from a to b
 */
function settle(
  levels: readonly Level[],
  from: readonly [Point, Point],
  sign: number,
  { most, windows, settledPx }: HowFine = FINELY,
): Settled {
  let ends = from;
  let fine: Refined | null = null;
  let moved = 0;
  for (const [level, { scale: s, brightness }] of [...levels.entries()].reverse()) {
    // noise draws the middle of a step towards the middle of where it is sought: again, until nothing moves
    for (const window of level === 0 ? windows : [2.5, 2.5]) {
      fine = refine(brightness, scaled(ends[0], s), scaled(ends[1], s), sign, window, most);
      if (!fine) break;
      const next: readonly [Point, Point] = [scaled(fine.a, 1 / s), scaled(fine.b, 1 / s)];
      moved = Math.max(distance(next[0], ends[0]), distance(next[1], ends[1]));
      ends = next;
      if (level === 0 && window === windows.at(-1) && moved < settledPx) break;
    }
    if (!fine) break;
  }
  return { ends, fine, moved };
}

/** A stretch with its brighter side on its right, settled on its edge: ends, bow and how sure, px; null where there is no such edge. */
export function settleStretch(level: Grey, a: Point, b: Point): Pick<EdgeFit, 'a' | 'b' | 'bendPx' | 'share' | 'sdPx'> | null {
  const { ends, fine, moved } = settle([{ scale: 1, brightness: brightnessOf(level, 1) }], [a, b], 1, QUICKLY);
  return fine && { a: ends[0], b: ends[1], bendPx: fine.bendPx, share: fine.share, sdPx: Math.hypot(fine.sdPx, STILL_TO_GO * moved) };
}

/** The drawn ends moved along the drawn line's normal onto the fitted line. */
function ontoLine(a: Point, b: Point, [p, q]: readonly [Point, Point]): readonly [Point, Point] {
  const { normal } = frameOf(a, b);
  const { normal: m, a: origin } = frameOf(p, q);
  const shift = (e: Point): Point => {
    const denominator = normal[0] * m[0] + normal[1] * m[1];
    const t = ((origin[0] - e[0]) * m[0] + (origin[1] - e[1]) * m[1]) / denominator;
    return [e[0] + t * normal[0], e[1] + t * normal[1]];
  };
  return [shift(a), shift(b)];
}

interface Candidate {
  readonly ends: readonly [Point, Point];
  readonly sign: number;
}

/** Lines from an offset at one end to an offset at the other along which brightness steps most, by exhaustion; weighed by how likely a hand is that far off. */
function candidates(brightness: Brightness, a: Point, b: Point, reach: number): Candidate[] {
  const { along, normal, length } = frameOf(a, b);
  const samples = Math.min(160, Math.max(16, Math.round(length / 3)));
  const half = Math.ceil(reach / COARSE_STEP);
  const count = 2 * half + 1;
  const steps = new Float64Array(samples * count);
  for (let i = 0; i < samples; i += 1) {
    const t = ((i + 0.5) / samples) * length;
    const [px, py] = [a[0] + along[0] * t, a[1] + along[1] * t];
    for (let k = 0; k < count; k += 1) {
      const o = (k - half) * COARSE_STEP;
      steps[i * count + k] =
        brightness(px + normal[0] * (o + 1), py + normal[1] * (o + 1)) - brightness(px + normal[0] * (o - 1), py + normal[1] * (o - 1));
    }
  }
  const score = new Float64Array(count * count);
  const likely = Float64Array.from({ length: count }, (_, k) => Math.exp(-0.5 * ((k - half) / half / POINTING_SHARE) ** 2));
  for (let k0 = 0; k0 < count; k0 += 1) {
    for (let k1 = 0; k1 < count; k1 += 1) {
      let sum = 0;
      for (let i = 0; i < samples; i += 1) {
        const t = (i + 0.5) / samples;
        // clipped, so that a few strong steps elsewhere do not outvote an edge that runs all along
        const g = steps[i * count + Math.round(k0 + (k1 - k0) * t)] as number;
        sum += g > 0.25 ? 0.25 : g < -0.25 ? -0.25 : g;
      }
      score[k0 * count + k1] = sum / samples;
    }
  }
  const found: { value: number; k0: number; k1: number }[] = [];
  const at = (k0: number, k1: number): number =>
    k0 < 0 || k1 < 0 || k0 >= count || k1 >= count
      ? 0
      : Math.abs(score[k0 * count + k1] as number) * (likely[k0] as number) * (likely[k1] as number);
  for (let k0 = 0; k0 < count; k0 += 1) {
    for (let k1 = 0; k1 < count; k1 += 1) {
      if (Math.abs(score[k0 * count + k1] as number) < LEAST_CONTRAST) continue;
      const value = at(k0, k1);
      let peak = true;
      for (let d0 = -2; d0 <= 2 && peak; d0 += 1) for (let d1 = -2; d1 <= 2; d1 += 1) if (at(k0 + d0, k1 + d1) > value) peak = false;
      if (peak) found.push({ value, k0, k1 });
    }
  }
  found.sort((p, q) => q.value - p.value);
  const shifted = (e: Point, k: number): Point => [
    e[0] + normal[0] * (k - half) * COARSE_STEP,
    e[1] + normal[1] * (k - half) * COARSE_STEP,
  ];
  return found
    .slice(0, MOST_CANDIDATES)
    .map(({ k0, k1 }) => ({ ends: [shifted(a, k0), shifted(b, k1)] as const, sign: Math.sign(score[k0 * count + k1] as number) }));
}

interface Refined {
  readonly a: Point;
  readonly b: Point;
  readonly bowPx: number;
  readonly bendPx: number;
  readonly share: number;
  readonly sdPx: number;
  readonly contrast: number;
}

/** One round of the fine fit: where each cross-section's step has its middle, and the weighted line through them without outliers. */
function refine(brightness: Brightness, a: Point, b: Point, sign: number, window: number, most: number): Refined | null {
  const { along, normal, length } = frameOf(a, b);
  const samples = Math.min(most, Math.max(16, Math.round(length / 2)));
  const all: (Section | null)[] = Array.from({ length: samples }, (_, i) => {
    const t = (i + 0.5) / samples;
    const [px, py] = [a[0] + along[0] * t * length, a[1] + along[1] * t * length];
    const step = stepAcross(brightness, px, py, normal, sign, window);
    return step && { t, ...step };
  });
  const found = all.filter((p) => p !== null);
  if (found.length < LEAST_SECTIONS) return null;
  // what steps more than most is something else, a leaf or a lamp: it counts no more than they do
  const usual = medianOf(found.map((p) => p.w));
  const points = found.map((p) => ({ ...p, w: Math.min(p.w, usual) }));
  const first = withoutOutliers(points, points, 1);
  if (!first) return null;
  // where the edge is hidden the steps of something else were found: only what lies on its curve counts
  const curved = withoutOutliers(points, first.kept, 2) ?? first;
  const on = onEdge(
    all.map((p) => p && { ...p, w: Math.min(p.w, usual) }),
    curved.powers,
  );
  // among what is no edge some lie on it by chance
  const share = Math.max(0, (on.length / samples - BY_CHANCE) / (1 - BY_CHANCE));
  const counted = on.length >= LEAST_SECTIONS ? on : first.kept;
  const line = (weightedPolynomial(counted, 1) ?? first.powers) as unknown as readonly [number, number];
  const curve = weightedPolynomial(counted, 2);
  let bowPx = 0;
  if (curve) for (let t = 0; t <= 1.0001; t += 0.05) bowPx = Math.max(bowPx, Math.abs(valueOf(curve, t) - valueOf(line, t)));
  const at = (t: number): Point => {
    const o = line[0] + line[1] * t;
    return [a[0] + along[0] * t * length + normal[0] * o, a[1] + along[1] * t * length + normal[1] * o];
  };
  return {
    a: at(0),
    b: at(1),
    bowPx,
    bendPx: curve ? -(curve[2] as number) / 4 : 0,
    share,
    sdPx: (MORE_THAN_SCATTER / Math.max(LEAST_SHARE, share)) * endDeviation(counted, curve ?? line),
    contrast: first.kept.reduce((sum, p) => sum + p.w, 0) / points.length,
  };
}

/** A cross-section: where along the line, where its step has its middle, and how much brightness steps. */
interface Section {
  readonly t: number;
  readonly o: number;
  readonly w: number;
}

const LEAST_SECTIONS = 8;
const valueOf = (powers: readonly number[], t: number): number => powers.reduceRight((sum, c) => sum * t + c, 0);
const medianOf = (values: readonly number[]): number => Float64Array.from(values).sort()[values.length >> 1] as number;

/** A polynomial through sections, those left out that are far off it; null where too few are left. */
function withoutOutliers(
  points: readonly Section[],
  from: readonly Section[],
  degree: number,
): { readonly powers: readonly number[]; readonly kept: readonly Section[] } | null {
  let kept = from;
  let powers: readonly number[] | null = null;
  for (let round = 0; round < 4; round += 1) {
    powers = weightedPolynomial(kept, degree);
    if (!powers?.every(Number.isFinite)) return null;
    const off = (p: Section): number => Math.abs(p.o - valueOf(powers as readonly number[], p.t));
    const limit = Math.max(0.15, 3 * medianOf(kept.map(off)));
    const next = points.filter((p) => off(p) <= limit);
    if (next.length < LEAST_SECTIONS || (next.length === kept.length && next.every((p, i) => p === kept[i]))) break;
    kept = next;
  }
  return powers && { powers, kept };
}

/** The sections that lie on the edge's curve with something of its contrast, and whose neighbours mostly do. */
function onEdge(all: readonly (Section | null)[], powers: readonly number[]): readonly Section[] {
  const near = all.map((p) => p !== null && Math.abs(p.o - valueOf(powers, p.t)) <= ON_EDGE_PX);
  const steps = all.flatMap((p, i) => (p && near[i] ? [p.w] : []));
  if (steps.length === 0) return [];
  const least = ON_EDGE_CONTRAST * medianOf(steps);
  const strong = all.map((p, i) => near[i] === true && (p as Section).w >= least);
  return all.filter((p, i): p is Section => {
    if (p === null || !strong[i]) return false;
    const [from, end] = [Math.max(0, i - NEIGHBOURS), Math.min(all.length, i + NEIGHBOURS + 1)];
    let count = 0;
    for (let k = from; k < end; k += 1) if (strong[k]) count += 1;
    return count >= MOSTLY * (end - from);
  });
}

/**
 * Standard deviation of the ends' places across a line that was fitted to sections: of their difference over the square root of two, which
 * is what turns the line. Sections beside each other share their pixels: (1 + r) / (1 - r) for a correlation r from each to the next.
 */
function endDeviation(points: readonly Section[], curve: readonly number[]): number {
  const n = points.length;
  const off = points.map((p) => p.o - valueOf(curve, p.t));
  const squares = off.reduce((sum, v) => sum + v * v, 0);
  const beside = off.reduce((sum, v, i) => sum + (i > 0 ? v * (off[i - 1] as number) : 0), 0);
  const r = squares > 0 ? Math.min(MOST_ALIKE, Math.max(0, beside / squares)) : 0;
  const variance = (squares / Math.max(1, n - 3)) * ((1 + r) / (1 - r));
  const mean = points.reduce((sum, p) => sum + p.t, 0) / n;
  const spread = points.reduce((sum, p) => sum + (p.t - mean) ** 2, 0);
  return Math.max(LEAST_SD_PX, Math.sqrt(variance / spread / 2));
}
