import type { Correction } from '../correction/schema';
import { composeWarp } from '../crop/compose-warp';
import { keepCropInPlace } from './keep-crop-in-place';
import { PlumbError } from '../picture/failure';
import { rectCentre } from '../picture/point';
import type { Movement } from '../stance/determined-by';
import { solveCorrection } from '../stance/solve-correction';
import { horizontalLeanDeg, verticalLeanDeg } from '../warp/shown-direction';

const inDegrees = (deg: number, limit: number): number => Math.max(-limit, Math.min(limit, Math.round(deg * 1e6) / 1e6));

/** What the hand adds to roll, degrees; a crop by hand stays over the same picture point. */
export const withRollAdjust = (correction: Correction, rollDeg: number): Correction =>
  withStance(correction, { adjust: { ...correction.stance.adjust, roll: inDegrees(rollDeg, 180) } });

/** A whole movement set by hand, degrees: `adjust` becomes what is missing from the solved value. */
export const withMovement = (correction: Correction, movement: Movement, totalDeg: number): Correction =>
  withStance(correction, { adjust: { ...correction.stance.adjust, [movement]: inDegrees(totalDeg - correction.stance[movement], 180) } });

/** The document with other movements; a crop by hand stays over the same picture point. */
export const withStance = (correction: Correction, change: Partial<Correction['stance']>): Correction =>
  keepCropInPlace(correction, { ...correction, stance: { ...correction.stance, ...change } });

/** The part of tilt or swing that is taken out (1: all); of both alike when linked. */
export const withStrength = (correction: Correction, which: 'tilt' | 'swing', share: number, linked: boolean): Correction =>
  withStance(correction, { strength: linked ? { tilt: share, swing: share } : { ...correction.stance.strength, [which]: share } });

/** The crop re-fits itself while the aim turns, so its middle is followed until it stays, degrees. */
const MIDDLE_SETTLED_DEG = 1e-4;
const MIDDLE_ROUNDS = 8;

/** The aim turned so that the vertical in the middle of the crop is plumb, the convergence being kept; unchanged where there is none. */
export function withMiddlePlumb(correction: Correction): Correction {
  let next = correction;
  try {
    for (let round = 0; round < MIDDLE_ROUNDS; round += 1) {
      const warp = composeWarp(next, next.picture);
      const lean = (next.stance.middle === 'plumb' ? verticalLeanDeg : horizontalLeanDeg)(next, warp, rectCentre(warp.crop));
      if (Math.abs(lean) < MIDDLE_SETTLED_DEG) break;
      next = withStance(next, { aim: { ...next.stance.aim, roll: inDegrees(next.stance.aim.roll - lean, 90) } });
    }
  } catch (error) {
    // a correction that cannot be shown has its own sentence; the aim stays as it is
    if (!(error instanceof PlumbError)) throw error;
  }
  return next;
}

/** What follows from any change by itself: the middle kept plumb, where that is wished. */
export const withStandingWishes = (correction: Correction): Correction =>
  correction.stance.keepMiddle ? withMiddlePlumb(correction) : correction;

/** What the result faces; a sheet is flat, so it only turns. */
export function withFront(correction: Correction, front: Correction['stance']['front']): Correction {
  const next: Correction = {
    ...correction,
    camera: { ...correction.camera, flat: front === 'sheet' },
    stance: { ...correction.stance, front },
  };
  return keepCropInPlace(correction, solveCorrection(next, correction.picture).correction);
}
