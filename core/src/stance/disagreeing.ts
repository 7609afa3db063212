import type { Movement } from './determined-by';
import { atEnd, descend, normalOf, offOf, scatterSq, settled, slopesOf, type Problem, type Solved, type Unknown } from './problem';
import { solveLinear } from '../linear/levenberg-marquardt';
import type { TrueLine } from './true-lines';

/** A line that contradicts the others. */
export interface Disagreement {
  readonly id: string;
  /** Chi-square of the others without it. */
  readonly restSq: number;
}

/** A line is accused when it is this many deviations off what the others say, px on 6000 x 4000 counted in. */
const ACCUSED_DEVIATIONS = 4;
const ACCUSED_PX = 3;
/** And when it is seen to be off in the answer of all. */
const SEEN_OFF_DEVIATIONS = 2;
const OF_DIAGONAL_PX = 7211;
/** So many times what the others scatter by. */
const TIMES_THE_OTHERS = 3;
const MOST_TRIED = 4;

/**
 * The line that all others agree without: of those most off, the one that leaves least when it is left out and everything is solved
 * without it. Null where none stands out, or where there are too few lines to tell.
 */
export function worstDisagreement(
  problem: Problem,
  unknowns: readonly Unknown[],
  free: readonly Movement[],
  best: Solved,
): Disagreement | null {
  const { diagonalPx } = problem;
  if (offOf(problem, best.camera).length < unknowns.length + 2 || atEnd(problem, best.camera)) return null;
  let worst: (Disagreement & { readonly offPx: number; readonly deviations: number; readonly others: number }) | null = null;
  // one that alone tells something comes true whatever the others say: whether it is they or it nobody can tell
  const tried = byOwnWay(problem, unknowns, best).filter(({ off }) => off > SEEN_OFF_DEVIATIONS);
  for (const { line, deviations } of tried.slice(0, MOST_TRIED)) {
    const { rest, scatter } = without(problem, unknowns, free, best, line);
    const found = { id: line.id, offPx: (deviations * line.sd) / line.weight, restSq: rest.chiSq, deviations, others: Math.sqrt(scatter) };
    if (!worst || found.restSq < worst.restSq) worst = found;
  }
  if (!worst || worst.offPx < (ACCUSED_PX * diagonalPx) / OF_DIAGONAL_PX) return null;
  if (worst.deviations < ACCUSED_DEVIATIONS || worst.deviations < TIMES_THE_OTHERS * worst.others) return null;
  return { id: worst.id, restSq: worst.restSq };
}

/** The answer of all lines but one, and what they scatter by. */
function without(
  problem: Problem,
  unknowns: readonly Unknown[],
  free: readonly Movement[],
  best: Solved,
  line: TrueLine,
): { readonly rest: Solved; readonly scatter: number } {
  const others = { ...problem, lines: problem.lines.filter((l) => l !== line) };
  const rest = unknowns.includes('logFocal')
    ? descend(others, unknowns, best.camera, { rounds: 2, from: 'start' })
    : settled(others, free, best.camera);
  return { rest, scatter: scatterSq(rest.chiSq, offOf(others, rest.camera).length, unknowns.length) };
}

/** How far a line is off in the answer of all, in its deviations: as it is seen, and with its place in the fit counted in. */
interface OwnWay {
  readonly line: TrueLine;
  readonly off: number;
  readonly deviations: number;
}

/** Lines by how many deviations they are off, their place in the fit counted in (residual over the square root of 1 - leverage). */
function byOwnWay(problem: Problem, unknowns: readonly Unknown[], best: Solved): readonly OwnWay[] {
  const columns = slopesOf(problem, unknowns, best.camera);
  const normal = normalOf(columns);
  const off = offOf(problem, best.camera);
  const own = off.map((r, i) => {
    const row = columns.map((column) => column[i] as number);
    const solved = solveLinear(normal, row);
    const leverage = solved ? row.reduce((sum, v, k) => sum + v * (solved[k] as number), 0) : 1;
    return Math.abs(r) / Math.sqrt(Math.max(1e-3, 1 - leverage));
  });
  let at = 0;
  return problem.lines
    .map((line) => {
      const from = at;
      at += line.kind === 'eye' ? 2 : 1;
      return { line, off: Math.max(...off.slice(from, at).map(Math.abs)), deviations: Math.max(...own.slice(from, at)) };
    })
    .sort((p, q) => q.deviations - p.deviations);
}
