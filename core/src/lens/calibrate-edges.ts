import type { LensModel, TracedEdge } from '../correction/schema';
import { inverseOf } from '../linear/symmetric';
import { PlumbError } from '../picture/failure';
import { diagonal, distance, type Point, type Size } from '../picture/point';
import { asTraced, centreOf, fitLens, LEAST_SIGMA_PX, type Fitted, type FittedLens, type Traced } from './fit-lens';
import { FAMILIES } from './inward-models';
import { farthestCornerPx } from './lens-map';
import { lensOf } from './lens-of';

/** What traced edges say of the lens. */
export interface EdgeCalibration {
  readonly model: Extract<LensModel, { kind: 'division' | 'radial' }>;
  /** Standard deviation of one bead across its edge, px. */
  readonly sigmaPx: number;
  /** How far the lens moves the farthest corner, px, positive outwards (pincushion), and its standard deviation. */
  readonly cornerPx: number;
  readonly cornerSdPx: number;
  /** Standard deviations of the coefficients, in the model's order. */
  readonly sd: readonly [number, number];
  /** Whether the centre was solved too. */
  readonly centred: boolean;
  /** Largest radius that a bead reached, half diagonals. */
  readonly reach: number;
  /** Number of edges that decided. */
  readonly edges: number;
  /** Edges that contradict the others and were passed over: no lens straightens them together with the rest. */
  readonly disagreeing: readonly string[];
  /** Followed edges that hardly are one edge each, so that they hardly count: what they were followed along strays or scatters. */
  readonly straying: readonly string[];
}

/** The calibration, or why these edges say nothing. */
export type EdgeCalibrationOutcome =
  { readonly found: EdgeCalibration; readonly why: null } | { readonly found: null; readonly why: string };

/** Fewer points along an edge say nothing about its bow. */
export const LEAST_BEADS = 3;
/** Refused: a corner less certain than half of the most that the lens moves anything, or than both of the others. */
const UNSURE_SHARE = 0.5;
const UNSURE_OF_HALF = 0.02;
const SURE_ENOUGH_SHARE = 0.02;
/** An edge contradicts the others when it is off by more than this and by so many times as much as their median. */
const ODD_PX = 0.5;
const ODD_TIMES = 3;
const EDGES_FOR_ODD = 4;
/** A followed edge whose bow is less sure than this, px, hardly counts. */
const STRAYING_PX = 1;
/** A model that costs so many variances more is not the lens's. */
const REFUTED = 16;

/**
 * The lens that makes traced edges straight (plumb-line method): minimises the beads' distances from straight lines, measured in picture
 * px so that shrinking is not rewarded. Fits the radial and the division model and keeps the better one.
 *
 * @param edges picture px; those with fewer than three beads are passed over
 * @param centre where the lens's axis is taken to meet the picture, px
 * @returns the reason instead where the edges cannot tell
 * Sources: Brown 1971, Close-range camera calibration; Devernay, Faugeras 2001, Straight lines have to be straight.
 */
export function calibrateEdges(edges: readonly TracedEdge[], size: Size, centre: Point): EdgeCalibrationOutcome {
  let counted = thinned(edges.filter((e) => e.points.length >= LEAST_BEADS));
  if (counted.length === 0)
    return { found: null, why: 'Trace an edge that is straight in reality: at its ends, or with three beads or more.' };
  const disagreeing: string[] = [];
  for (;;) {
    const traced = counted.map(asTraced);
    // one bead more than lines and one coefficient take
    const enough = traced.reduce((sum, { points }) => sum + points.length - 2, 0) > 2;
    const fitted = fitLens(traced, size, centre, enough ? 2 : 1);
    const odds = fitted && counted.length >= EDGES_FOR_ODD ? oddOnes(fitted.offPx) : [];
    const odd = odds[0] ?? null;
    if (disagreeing.length + odds.length > MOST_ODD)
      return {
        found: null,
        why: `More than ${MOST_ODD} of these edges do not fit the lens of the others. Is each of them straight in reality, and one edge alone?`,
      };
    if (odd === null) {
      const straying = counted.flatMap(({ id, bowSd = 0 }) => (bowSd > STRAYING_PX ? [id] : []));
      return judged(traced, size, centre, fitted, disagreeing, straying);
    }
    disagreeing.push((counted[odd] as TracedEdge).id);
    counted = counted.filter((_, i) => i !== odd);
  }
}

/** More beads than this, all edges together, tell nothing that fewer do not, and take their time. */
const MOST_BEADS = 2000;
/** More edges than this that are far off the others are no slips of the hand. */
const MOST_ODD = 12;

/** Edges with no more beads than the lens is found from in a moment: evenly fewer of each, its ends among them. */
function thinned(edges: readonly TracedEdge[]): readonly TracedEdge[] {
  const most = Math.max(LEAST_BEADS, Math.floor(MOST_BEADS / Math.max(1, edges.length)));
  return edges.map(({ points, ...edge }) => {
    const step = (points.length - 1) / (most - 1);
    const kept = (i: number): TracedEdge['points'][number] => points[Math.round(i * step)] as TracedEdge['points'][number];
    return { ...edge, points: points.length <= most ? points : Array.from({ length: most }, (_, i) => kept(i)) };
  });
}

/** The edges that are off by far more than the others, the worst first. */
function oddOnes(offPx: readonly number[]): readonly number[] {
  const byOff = offPx.map((_, i) => i).sort((i, k) => (offPx[k] as number) - (offPx[i] as number));
  const others = byOff.slice(1).map((i) => offPx[i] as number);
  const median = others[others.length - 1 - (others.length >> 1)] as number;
  return byOff.filter((i) => (offPx[i] as number) > ODD_PX && (offPx[i] as number) > ODD_TIMES * median);
}

/** The fit as a lens with its certainty, or why it says nothing. */
function judged(
  traced: readonly Traced[],
  size: Size,
  centre: Point,
  best: FittedLens | null,
  disagreeing: readonly string[],
  straying: readonly string[],
): EdgeCalibrationOutcome {
  if (!best) return { found: null, why: 'Too few beads: trace one more edge, or put more beads on this one.' };
  const half = diagonal(size) / 2;
  const { count, spare } = best;
  const sigmaSq = Math.max(LEAST_SIGMA_PX ** 2, best.cost / spare) * best.alike;
  const at = centreOf(best, centre, half);
  const [a = 0, b = 0] = best.x.slice(0, count);
  const model: EdgeCalibration['model'] =
    best.family === 'radial'
      ? { kind: 'radial', cx: at[0], cy: at[1], k1: a, k2: b }
      : { kind: 'division', cx: at[0], cy: at[1], l1: a, l2: b };
  const corner = farthestCornerPx(at, size) / half;
  const cornerOf = ({ family }: Pick<Fitted, 'family'>, x: readonly number[]): number =>
    (corner - FAMILIES[family](x.slice(0, count))(corner)[0]) * half;
  const cornerAt = (x: readonly number[]): number => cornerOf(best, x);
  const covariance = inverseOf(best.normal, best.x.length)?.map((v) => v * sigmaSq);
  const cornerPx = cornerAt(best.x);
  // beyond the beads the model decides: by how much, the other one tells, unless the beads speak against it
  const refuted = best.other.cost > best.cost + REFUTED * sigmaSq;
  const spread = refuted ? 0 : Math.abs(cornerOf(best.other, best.other.x) - cornerPx) / 2;
  // what each followed edge's own bow does to the corner
  const bows = best.bowWays.map((way) => cornerAt(best.x.map((v, i) => v + (way[i] as number))) - cornerPx);
  const cornerSdPx = covariance
    ? Math.hypot(deviationOf(cornerAt, best.x, covariance, count), spread || 0, ...bows.map((v) => v || 0))
    : Infinity;
  const sdAt = (k: number): number => (covariance && k < count ? Math.sqrt(Math.max(0, covariance[k * best.x.length + k] as number)) : 0);
  // a lens may bend one way inside and the other way outside, and leave the corner where it was
  const most = Math.max(
    ...Array.from({ length: 20 }, (_, i) => {
      const r = (corner * (i + 1)) / 20;
      return Math.abs(r - FAMILIES[best.family](best.x.slice(0, count))(r)[0]) * half;
    }),
  );
  const small = cornerSdPx <= Math.max(UNSURE_OF_HALF * half, SURE_ENOUGH_SHARE * most);
  if (!small || !(cornerSdPx <= UNSURE_SHARE * most)) {
    return {
      found: null,
      why: small
        ? 'These edges are straight already, as far as they can tell: there is nothing to correct.'
        : 'These edges say too little: the corners could lie ' +
          `${Number.isFinite(cornerSdPx) ? `${cornerSdPx.toFixed(0)} px` : 'anywhere'} this way or that. Trace long edges near the border; ones through the middle stay straight whatever the lens does.`,
    };
  }
  try {
    lensOf(model, size);
  } catch (error) {
    if (!(error instanceof PlumbError)) throw error;
    return { found: null, why: 'No lens makes these edges straight without folding the picture. Is each of them straight in reality?' };
  }
  const reach = Math.max(...traced.flatMap(({ points }) => points).map((p) => distance(p, at))) / half;
  return {
    found: {
      model,
      sigmaPx: Math.sqrt(best.cost / spare),
      cornerPx,
      cornerSdPx,
      sd: [sdAt(0), sdAt(1)],
      centred: best.withCentre,
      reach,
      edges: traced.length,
      disagreeing,
      straying,
    },
    why: null,
  };
}

/** Standard deviation of a function of the first `count` parameters. */
function deviationOf(of: (x: readonly number[]) => number, x: readonly number[], covariance: readonly number[], count: number): number {
  const n = x.length;
  const h = 1e-6;
  const slopes = Array.from({ length: count }, (_, k) => {
    const at = (by: number): number => of(x.map((v, i) => (i === k ? v + by : v)));
    return (at(h) - at(-h)) / (2 * h);
  });
  let variance = 0;
  for (let i = 0; i < count; i += 1)
    for (let j = 0; j < count; j += 1) variance += (slopes[i] as number) * (slopes[j] as number) * (covariance[i * n + j] as number);
  return Math.sqrt(Math.max(0, variance));
}
