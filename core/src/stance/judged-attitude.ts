import type { Correction } from '../correction/schema';
import type { Size } from '../picture/point';
import type { Attitude } from './attitude';
import { solveStance, type StanceSolution } from './solve-stance';
import { usedAttitude } from './stance-homography';

/**
 * How the camera stood by all that is known, degrees: what directions in the result are judged by. The attitude in use, but for lines
 * that may only turn: these say more than they may do.
 */
export function judgedAttitude(correction: Correction, size: Size, solution?: StanceSolution | null): Attitude {
  const { from, may, adjust } = correction.stance;
  if (from !== 'references' || may !== 'turn-only' || correction.camera.flat) return usedAttitude(correction);
  const seen = (solution === undefined ? solveStance(correction, size) : solution)?.seen;
  if (!seen) return usedAttitude(correction);
  return { roll: seen.roll + adjust.roll, tilt: seen.tilt + adjust.tilt, swing: seen.swing + adjust.swing };
}
