import { bendOf } from './doubt';
import type { Movement } from './determined-by';
import type { SeenCamera } from './line-residuals';
import { descend, explained, offOf, scatterSq, settled, variancesOf, type Problem, type Solved } from './problem';

/** What lines say about the focal length. */
export interface FocalRange {
  /** The camera with the focal length that fits best. */
  readonly best: Solved;
  /** Lengths that fit nearly as well, px: two deviations either way by the likelihood; null where no end is in sight. */
  readonly low: number | null;
  readonly high: number | null;
  /** Standard deviation of its logarithm, from the width of the range. */
  readonly sd: number;
  /** What the lines scatter by more than their pointing, as a factor of variances. */
  readonly scatter: number;
}

/** Two deviations, as a difference of chi-square. */
const TWO_DEVIATIONS_SQ = 4;
/** Focal lengths there are, diagonals. */
const SHORTEST_DIAGONALS = 0.2;
const LONGEST_DIAGONALS = 10;
/** A range wider than this factor says nothing worth taking. */
export const FLAT_FACTOR = 4;
/** A focal length that leaves less than this, px, has not gone astray. */
export const PLAUSIBLE_PX = 5;

/**
 * The likelihood of the focal length along its whole reach: the best one, and how far it may be shorter or longer before the lines fit two
 * deviations worse, every movement settled anew for each.
 */
export function focalRange(problem: Problem, free: readonly Movement[], from: Solved): FocalRange {
  const unknowns = [...free, 'logFocal'] as const;
  let best = descend(problem, unknowns, from.camera);
  for (const factor of [0.6, 1.7, 0.35, 3]) {
    if (best.chiSq <= explained(problem, PLAUSIBLE_PX)) break;
    const rival = descend(problem, unknowns, { ...from.camera, focalPx: from.camera.focalPx * factor });
    if (rival.chiSq < best.chiSq - 1e-9) best = rival;
  }
  const residuals = offOf(problem, best.camera).length;
  const scatter = scatterSq(best.chiSq, residuals, unknowns.length);
  const bound = best.chiSq + TWO_DEVIATIONS_SQ * scatter;
  const variance = variancesOf(problem, unknowns, best.camera)?.at(-1);
  const expected = variance === undefined ? 1 : 2 * Math.sqrt(scatter * variance);
  const at = Math.log(best.camera.focalPx);
  // a lens that was not taken out makes it longer or shorter, however many lines there are
  const bend = Math.abs(bendOf(problem, unknowns, best.camera)?.at(-1) ?? 0);
  const reached = (side: number): number | null => {
    const end = endOf(problem, free, best, bound, side, expected);
    return end === null ? null : Math.exp(at + side * Math.hypot(Math.log(end) - at, 2 * bend));
  };
  const [low, high] = [reached(-1), reached(1)];
  // where one end is not in sight the other one speaks for it, and twice the whole reach where none is
  const ways = [low, high].flatMap((end) => (end === null ? [] : [Math.abs(Math.log(end) - at) / 2]));
  const sd = low === null || high === null ? Math.max(Math.log(FLAT_FACTOR) / 2, ...ways) : Math.max(...ways);
  return { best, low, high, sd, scatter };
}

/** Where the lines fit two deviations worse to one side, px; null where that lies beyond what focal lengths there are. */
function endOf(problem: Problem, free: readonly Movement[], best: Solved, bound: number, side: number, expected: number): number | null {
  const f = best.camera.focalPx;
  const limit = Math.log((side < 0 ? SHORTEST_DIAGONALS : LONGEST_DIAGONALS) * problem.diagonalPx) - Math.log(f);
  const reach = Math.abs(limit);
  let from: SeenCamera = best.camera;
  const worse = (by: number): number => {
    const at = settled(problem, free, { ...from, focalPx: f * Math.exp(side * by) });
    from = at.camera;
    return at.chiSq - bound;
  };
  // outwards in growing steps until it is passed, then by halves where both lie near
  let [inside, outside] = [0, Math.min(Math.max(expected, 1e-4), 0.7)];
  let value = worse(outside);
  for (let i = 0; i < 12 && value < 0; i += 1) {
    if (outside >= reach) return null;
    inside = outside;
    outside = Math.min(reach, outside * 1.6);
    value = worse(outside);
  }
  if (value < 0) return null;
  let [low, high] = [inside === 0 ? best.chiSq - bound : worse(inside), value];
  for (let i = 0; i < 5; i += 1) {
    // chi-square grows as the square of the way: its root is nearly straight
    const [p, q] = [Math.sqrt(Math.max(0, low + bound - best.chiSq)), Math.sqrt(Math.max(0, high + bound - best.chiSq))];
    const wanted = Math.sqrt(bound - best.chiSq);
    const next = q - p < 1e-9 ? (inside + outside) / 2 : inside + ((outside - inside) * (wanted - p)) / (q - p);
    const at = worse(next);
    if (Math.abs(at) < 0.02 * (bound - best.chiSq)) return f * Math.exp(side * next);
    if (at < 0) [inside, low] = [next, at];
    else [outside, high] = [next, at];
  }
  return f * Math.exp((side * (inside + outside)) / 2);
}
