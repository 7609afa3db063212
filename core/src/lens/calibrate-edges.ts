import type { LensModel, TracedEdge } from '../correction/schema';
import { levenbergMarquardt, solveLinear } from '../linear/levenberg-marquardt';
import { inverseOf } from '../linear/symmetric';
import { PlumbError } from '../picture/failure';
import { diagonal, distance, type Point, type Size } from '../picture/point';
import { bestLine } from './bow';
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
/** Beads are not placed better than this, px: keeps a perfect fit from claiming perfect certainty. */
const LEAST_SIGMA_PX = 0.2;
/** The second coefficient of lenses, where the edges do not tell it (common practice, no published source): one standard deviation. */
const SECOND_SD = 0.02;
const EDGES_FOR_CENTRE = 8;
/** How far a lens's centre lies off the picture's, one standard deviation as a share of the diagonal. */
const CENTRE_SD = 0.003;
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
const MOST_ALIKE = 0.8;

/** A radial function picture -> ideal and its slope, radii in half diagonals; NaN where it folds. */
type Inwards = (r: number) => readonly [value: number, slope: number];

/** A lens that shrinks a radius by more than this is not one. */
const LEAST_SLOPE = 0.02;

/** The smallest ideal radius at which r (1 + k1 r^2 + k2 r^4) stops growing; Infinity where it never does. */
function turningRadius(k1: number, k2: number): number {
  const roots =
    Math.abs(k2) < 1e-15 ? [-1 / (3 * k1)] : [-1, 1].map((sign) => (-3 * k1 + sign * Math.sqrt(9 * k1 * k1 - 20 * k2)) / (10 * k2));
  return Math.sqrt(Math.min(...roots.filter((s) => s > 0)));
}

const FAMILIES = {
  radial: ([k1 = 0, k2 = 0]: readonly number[]): Inwards => {
    const slope = (s: number): number => 1 + s * (3 * k1 + 5 * k2 * s);
    const turn = turningRadius(k1, k2);
    return (r) => {
      // safeguarded Newton steps between nothing and the radius where the polynomial turns back
      let [low, high] = [0, turn];
      let u = Math.min(r, turn);
      for (let i = 0; i < 60; i += 1) {
        const error = u * (1 + u * u * (k1 + k2 * u * u)) - r;
        if (Math.abs(error) < 1e-13) break;
        if (error > 0) high = u;
        else low = u;
        const next = u - error / slope(u * u);
        u = next > low && next < high ? next : Number.isFinite(high) ? (low + high) / 2 : 2 * u;
      }
      const s = slope(u * u);
      return s > LEAST_SLOPE && u < turn ? [u, 1 / s] : [NaN, NaN];
    };
  },
  division:
    ([l1 = 0, l2 = 0]: readonly number[]): Inwards =>
    (r) => {
      const s = r * r;
      const d = 1 + s * (l1 + l2 * s);
      const growth = 1 - l1 * s - 3 * l2 * s * s;
      return d > LEAST_SLOPE && growth > LEAST_SLOPE ? [r / d, growth / (d * d)] : [NaN, NaN];
    },
} as const;
type Family = keyof typeof FAMILIES;

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

/** An edge as the fit weighs it. */
interface Traced {
  readonly points: readonly Point[];
  /** Deviation of its bow, px, and how much less its beads count for it. */
  readonly bowSd: number;
  readonly scale: number;
}

/** Root mean square of a parabola over the beads of an edge, as a share of its bow about its own best line. */
const BOW_RMS = 0.3;

const asTraced = ({ points, bowSd = 0 }: TracedEdge): Traced => ({
  points,
  bowSd,
  scale: Math.hypot(LEAST_SIGMA_PX, BOW_RMS * bowSd) / LEAST_SIGMA_PX,
});

/** The edges that are off by far more than the others, the worst first. */
function oddOnes(offPx: readonly number[]): readonly number[] {
  const byOff = offPx.map((_, i) => i).sort((i, k) => (offPx[k] as number) - (offPx[i] as number));
  const others = byOff.slice(1).map((i) => offPx[i] as number);
  const median = others[others.length - 1 - (others.length >> 1)] as number;
  return byOff.filter((i) => (offPx[i] as number) > ODD_PX && (offPx[i] as number) > ODD_TIMES * median);
}

/** The better of the two models, its cost, and how far each edge is off it, root mean square px; null where beads are too few. */
function fitLens(traced: readonly Traced[], size: Size, centre: Point, count: 1 | 2): FittedLens | null {
  const half = diagonal(size) / 2;
  const beads = traced.reduce((sum, { points }) => sum + points.length, 0);
  const spare = beads - 2 * traced.length - count;
  if (spare < 1) return null;

  const residualsOf =
    (family: Family, withCentre: boolean) =>
    (x: readonly number[]): number[] => {
      const moved: Point = withCentre ? [centre[0] + (x[count] as number) * half, centre[1] + (x[count + 1] as number) * half] : centre;
      const r = offLines(traced, FAMILIES[family](x.slice(0, count)), moved, half);
      // the middle is likely: counted in px of the beads' own deviation
      if (count === 2) r.push((LEAST_SIGMA_PX * (x[1] as number)) / SECOND_SD);
      if (withCentre) r.push((x[count] as number) / (2 * CENTRE_SD), (x[count + 1] as number) / (2 * CENTRE_SD));
      return r;
    };
  const fit = (family: Family, withCentre: boolean, from: readonly number[]): Fitted => {
    const { x, cost, normal } = levenbergMarquardt(
      residualsOf(family, withCentre),
      from,
      from.map(() => 1e-5),
      60,
    );
    return { family, withCentre, count, x, cost: 2 * cost, normal };
  };
  const reached = Math.max(...traced.flatMap(({ points }) => points).map((p) => distance(p, centre))) / half;
  const none = new Array<number>(count).fill(0);
  const division = fit('division', false, none);
  // from the division model's answer, since on the way there from no lens at all a polynomial may fold
  const radials = [none, nearestRadial(FAMILIES.division(division.x), reached, count)].map((start) => fit('radial', false, start));
  const radial = radials.reduce((p, q) => (q.cost < p.cost ? q : p));
  const sigmaSq = Math.max(LEAST_SIGMA_PX ** 2, Math.min(radial.cost, division.cost) / spare);
  // radial on a tie
  let best = division.cost < radial.cost - 2 * sigmaSq ? division : radial;
  if (traced.length >= EDGES_FOR_CENTRE) {
    const centred = fit(best.family, true, [...best.x, 0, 0]);
    if (centred.cost < best.cost - 4 * sigmaSq) best = centred;
  }
  const off = offLines(traced, FAMILIES[best.family](best.x.slice(0, count)), centreOf(best, centre, half), half);
  let at = 0;
  const offPx = traced.map(({ points, scale }) => {
    const own = off.slice(at, (at += points.length));
    // in px; one that is known to be unsure is not odd for it
    return Math.sqrt(own.reduce((sum, v) => sum + v * v, 0) / points.length) * Math.sqrt(scale);
  });
  const other = best.family === 'radial' ? division : radial;
  return {
    ...best,
    count,
    spare,
    offPx,
    alike: alikeness(traced, off),
    other,
    bowWays: bowWays(traced, residualsOf(best.family, best.withCentre), best),
  };
}

/**
 * By how much beads that are off alike say less than as many of their own: neighbours along an edge that was followed share its faults.
 * (1 + r) / (1 - r) for a correlation r from each to the next; 1 for beads placed one by one.
 */
function alikeness(traced: readonly Traced[], off: readonly number[]): number {
  let [beside, own, at] = [0, 0, 0];
  for (const {
    points: { length },
  } of traced) {
    for (let i = 0; i < length; i += 1) {
      const v = off[at + i] as number;
      own += v * v;
      if (i > 0) beside += v * (off[at + i - 1] as number);
    }
    at += length;
  }
  const r = own > 0 ? Math.min(MOST_ALIKE, Math.max(0, beside / own)) : 0;
  return (1 + r) / (1 - r);
}

const centreOf = ({ withCentre, x, count }: Fitted, centre: Point, half: number): Point =>
  withCentre ? [centre[0] + (x[count] as number) * half, centre[1] + (x[count + 1] as number) * half] : centre;

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

interface Fitted {
  readonly family: Family;
  readonly withCentre: boolean;
  /** Coefficients among the parameters; the centre follows them. */
  readonly count: number;
  readonly x: readonly number[];
  /** Sum of squares, px^2. */
  readonly cost: number;
  readonly normal: readonly number[];
}

/** What the better model is, with everything that is known of how sure it is. */
interface FittedLens extends Fitted {
  readonly spare: number;
  /** How far each edge is off it, root mean square px. */
  readonly offPx: readonly number[];
  readonly alike: number;
  readonly other: Fitted;
  /** What one deviation of each edge's own bow does to the parameters. */
  readonly bowWays: readonly (readonly number[])[];
}

/** What one deviation of each followed edge's bow does to the parameters: an edge errs as a whole, however many beads it has. */
function bowWays(
  traced: readonly Traced[],
  residuals: (x: readonly number[]) => number[],
  { x, normal }: Fitted,
): readonly (readonly number[])[] {
  const h = 1e-5;
  const columns = x.map((_, k) => {
    const at = (by: number): number[] => residuals(x.map((v, i) => (i === k ? v + by : v)));
    const [plus, minus] = [at(h), at(-h)];
    return plus.map((p, i) => (p - (minus[i] as number)) / (2 * h));
  });
  let from = 0;
  return traced.flatMap(({ points, bowSd, scale }) => {
    const first = from;
    from += points.length;
    if (bowSd === 0) return [];
    // a bow of that size about the best line, by the places of the beads along their chord
    const [a, b] = [points[0] as Point, points.at(-1) as Point];
    const length = distance(a, b);
    const bow = points.map((p) => {
      const u = (2 * ((p[0] - a[0]) * (b[0] - a[0]) + (p[1] - a[1]) * (b[1] - a[1]))) / (length * length) - 1;
      return (bowSd * (u * u - 1 / 3)) / scale;
    });
    const right = columns.map((column) => bow.reduce((sum, v, i) => sum + v * (column[first + i] as number), 0));
    const way = solveLinear(normal, right);
    return way ? [way] : [];
  });
}

/** A sum that no fit takes: where the function folds within the beads. */
const FOLDED_PX = 1e4;

/** Distances of all beads from the straight lines that lie best among them once the lens is taken out, in picture px; less where an edge is unsure. */
function offLines(traced: readonly Traced[], inwards: Inwards, [cx, cy]: Point, half: number): number[] {
  const off: number[] = [];
  for (const { points, scale: less } of traced) {
    const ideal: Point[] = [];
    const jacobians: (readonly [xx: number, xy: number, yy: number])[] = [];
    let folded = false;
    for (const [x, y] of points) {
      const [dx, dy] = [x - cx, y - cy];
      const radius = Math.hypot(dx, dy);
      const r = radius / half;
      const [value, slope] = r < 1e-9 ? [r, 1] : inwards(r);
      if (!Number.isFinite(value)) folded = true;
      const scale = r < 1e-9 ? 1 : value / r;
      ideal.push([cx + dx * scale, cy + dy * scale]);
      const [ux, uy] = radius < 1e-9 ? [1, 0] : [dx / radius, dy / radius];
      const extra = slope - scale;
      jacobians.push([scale + extra * ux * ux, extra * ux * uy, scale + extra * uy * uy]);
    }
    if (folded) {
      points.forEach(() => off.push(FOLDED_PX));
      continue;
    }
    let line = bestLine(ideal);
    let reach: number[] = [];
    for (let round = 0; round < 2; round += 1) {
      const [nx, ny] = line.normal;
      reach = jacobians.map(([xx, xy, yy]) => Math.hypot(xx * nx + xy * ny, xy * nx + yy * ny));
      line = bestLine(
        ideal,
        reach.map((v) => 1 / (v * v)),
      );
    }
    const [nx, ny] = line.normal;
    ideal.forEach(([x, y], i) => off.push((nx * x + ny * y - line.c) / ((reach[i] as number) * less)));
  }
  return off;
}

/** Coefficients of the radial model nearest to another function up to a radius, by least squares of r / u - 1 over the ideal radius u. */
function nearestRadial(inwards: Inwards, reached: number, count: number): number[] {
  const samples = Array.from({ length: 30 }, (_, i) => ((i + 1) / 30) * reached).map((r) => ({ r, u: inwards(r)[0] }));
  const power = (u: number, k: number): number => u ** (2 * k + 2);
  const sum = (of: (s: { r: number; u: number }) => number): number => samples.reduce((total, s) => total + of(s), 0);
  const index = Array.from({ length: count }, (_, k) => k);
  const normal = index.flatMap((i) => index.map((j) => sum(({ u }) => power(u, i) * power(u, j))));
  return (
    solveLinear(
      normal,
      index.map((i) => sum(({ r, u }) => power(u, i) * (r / u - 1))),
    ) ?? index.map(() => 0)
  );
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
