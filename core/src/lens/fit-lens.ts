import type { TracedEdge } from '../correction/schema';
import { levenbergMarquardt, solveLinear } from '../linear/levenberg-marquardt';
import { diagonal, distance, type Point, type Size } from '../picture/point';
import { bestLine } from './bow';
import { FAMILIES, nearestRadial, type Family, type Inwards } from './inward-models';

/** Beads are not placed better than this, px: keeps a perfect fit from claiming perfect certainty. */
export const LEAST_SIGMA_PX = 0.2;
/** The second coefficient of lenses, where the edges do not tell it (common practice, no published source): one standard deviation. */
const SECOND_SD = 0.02;
/** With fewer edges the centre is not solved. */
const EDGES_FOR_CENTRE = 8;
/** How far a lens's centre lies off the picture's, one standard deviation as a share of the diagonal. */
const CENTRE_SD = 0.003;
/** Neighbouring beads are not more alike than this. */
const MOST_ALIKE = 0.8;

/** An edge as the fit weighs it. */
export interface Traced {
  readonly points: readonly Point[];
  /** Deviation of its bow, px, and how much less its beads count for it. */
  readonly bowSd: number;
  readonly scale: number;
}

/** Root mean square of a parabola over the beads of an edge, as a share of its bow about its own best line. */
const BOW_RMS = 0.3;

export const asTraced = ({ points, bowSd = 0 }: TracedEdge): Traced => ({
  points,
  bowSd,
  scale: Math.hypot(LEAST_SIGMA_PX, BOW_RMS * bowSd) / LEAST_SIGMA_PX,
});

/** One model, fitted. */
export interface Fitted {
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
export interface FittedLens extends Fitted {
  readonly spare: number;
  /** How far each edge is off it, root mean square px. */
  readonly offPx: readonly number[];
  readonly alike: number;
  readonly other: Fitted;
  /** What one deviation of each edge's own bow does to the parameters. */
  readonly bowWays: readonly (readonly number[])[];
}

/** The better of the two models, its cost, and how far each edge is off it, root mean square px; null where beads are too few. */
export function fitLens(traced: readonly Traced[], size: Size, centre: Point, count: 1 | 2): FittedLens | null {
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

/** Where a fit's centre lies, px. */
export const centreOf = ({ withCentre, x, count }: Fitted, centre: Point, half: number): Point =>
  withCentre ? [centre[0] + (x[count] as number) * half, centre[1] + (x[count + 1] as number) * half] : centre;

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
