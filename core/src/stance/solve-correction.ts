import type { Correction } from '../correction/schema';
import type { Size } from '../picture/point';
import { DegeneratePanelError } from './homography-from-corners';
import { solvePanel, type PanelSolution } from './panel';
import { solveStance, type StanceSolution } from './solve-stance';

/** Angles are stored rounded to this many parts of a degree. */
const PER_DEGREE = 1e6;
const rounded = (deg: number): number => Math.round(deg * PER_DEGREE) / PER_DEGREE;

/** A correction with its stance solved, and how sure that is. */
export interface SolvedCorrection {
  readonly correction: Correction;
  readonly solution: StanceSolution | null;
  /** The panel that decided, when the stance is from a panel. */
  readonly panel: PanelSolution | null;
}

/**
 * Solves the stance and writes it into the document; `adjust` stays as it is. From a panel: its exact homography, split, with aspect and
 * shear; else from the used references. Without anything usable a solved stance goes back to zero, one by hand stays.
 */
export function solveCorrection(correction: Correction, size: Size): SolvedCorrection {
  const { stance } = correction;
  const panel = stance.from === 'panel' ? firstPanel(correction, size) : null;
  if (panel) {
    const { attitude, aspect, shearDeg } = panel.split;
    const solved = { roll: rounded(attitude.roll), tilt: rounded(attitude.tilt), swing: rounded(attitude.swing) };
    // the split is exact: aspect and shear absorb what a wrong focal length leaves
    const shape = { aspect: Math.min(10, Math.max(0.1, aspect)), shear: Math.max(-60, Math.min(60, rounded(shearDeg))) };
    return { correction: { ...correction, stance: { ...stance, ...solved, ...shape } }, solution: solveStance(correction, size), panel };
  }
  const solution = solveStance(correction, size);
  // what a panel or a pull by hand left in the shape goes when lines take over
  const pulled = stance.pull.scale !== 1 || stance.pull.shift[0] !== 0 || stance.pull.shift[1] !== 0;
  const shape = stance.from === 'panel' || pulled ? { aspect: 1, shear: 0, pull: { scale: 1, shift: [0, 0] as [number, number] } } : {};
  if (!solution) {
    if (stance.from === 'hand') return { correction, solution, panel };
    return { correction: { ...correction, stance: { ...stance, ...shape, from: 'hand', roll: 0, tilt: 0, swing: 0 } }, solution, panel };
  }
  const { roll, tilt, swing } = solution.attitude;
  return {
    correction: {
      ...correction,
      stance: { ...stance, ...shape, from: 'references', roll: rounded(roll), tilt: rounded(tilt), swing: rounded(swing) },
    },
    solution,
    panel,
  };
}

/** The first used panel that can be solved; one that cannot is passed over, its sentence is shown where it is drawn. */
function firstPanel(correction: Correction, size: Size): PanelSolution | null {
  for (const panel of correction.panels) {
    if (!panel.used) continue;
    try {
      const solved = solvePanel(correction, size, panel);
      if (solved) return solved;
    } catch (error) {
      if (!(error instanceof DegeneratePanelError)) throw error;
    }
  }
  return null;
}
