import type { Correction } from '../correction/schema';
import { PlumbError } from '../picture/failure';
import { solvePanel } from './panel';
import { isCounted } from './true-lines';

/** A line whose ends lie on one point says nothing of any direction. */
class LineWithoutLengthError extends PlumbError {
  constructor(number: number) {
    super(
      'line-without-length',
      `Line ${number} has no length: both its ends lie on the same point, so it tells no direction.`,
      'Nothing was written; give it two ends, or set it aside.',
    );
    this.name = 'LineWithoutLengthError';
  }
}

/**
 * Refuses a correction in which what decides the stance cannot: a file made from it would be the picture as if nothing had been asked.
 *
 * @throws DegeneratePanelError of the first panel that is to decide, or that lines are to be solved with, and is none, where no other one
 *   can be solved
 * @throws LineWithoutLengthError of the first reference that is to decide and has no length
 */
export function requireSoundStance(correction: Correction): void {
  if (correction.stance.from === 'hand') return;
  correction.references.forEach((reference, index) => {
    const { a, b } = reference;
    if (correction.stance.from === 'references' && isCounted(reference) && Math.hypot(a[0] - b[0], a[1] - b[1]) < SHORTEST_PX)
      throw new LineWithoutLengthError(index + 1);
  });
  // lines that decide may do so without a panel
  if (correction.stance.from === 'references' && correction.references.some(isCounted)) return;
  let first: unknown = null;
  for (const panel of correction.panels) {
    if (!panel.used) continue;
    try {
      solvePanel(correction, correction.picture, panel);
      return;
    } catch (error) {
      first ??= error;
    }
  }
  if (first !== null) throw first as Error;
}

/** Nothing shorter is a line, px. */
const SHORTEST_PX = 0.5;
