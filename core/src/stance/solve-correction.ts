import type { Correction } from '../correction/schema';
import type { Size } from '../picture/point';
import { solveStance, type StanceSolution } from './solve-stance';

/** Angles are stored rounded to this many parts of a degree. */
const PER_DEGREE = 1e6;
const rounded = (deg: number): number => Math.round(deg * PER_DEGREE) / PER_DEGREE;

/** A correction with its stance solved, and how sure that is. */
export interface SolvedCorrection {
  readonly correction: Correction;
  readonly solution: StanceSolution | null;
}

/**
 * Solves the stance from the used references and writes it into the document; `adjust` stays as it is.
 * Without a usable reference a stance that came from references goes back to zero, one by hand stays.
 */
export function solveCorrection(correction: Correction, size: Size): SolvedCorrection {
  const solution = solveStance(correction, size);
  const { stance } = correction;
  if (!solution) {
    if (stance.from !== 'references') return { correction, solution };
    return { correction: { ...correction, stance: { ...stance, from: 'hand', roll: 0, tilt: 0, swing: 0 } }, solution };
  }
  const { roll, tilt, swing } = solution.attitude;
  return {
    correction: {
      ...correction,
      stance: { ...stance, from: 'references', roll: rounded(roll), tilt: rounded(tilt), swing: rounded(swing) },
    },
    solution,
  };
}
