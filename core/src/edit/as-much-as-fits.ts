import type { Correction } from '../correction/schema';
import { composeWarp } from '../crop/compose-warp';
import { cutBoxes } from '../crop/keep-boxes';
import { withStrength } from './stance';
import { PlumbError } from '../picture/failure';
import { costOf } from '../warp/cost';

/** What a correction may cost at most. */
export interface Bearable {
  /** Largest local enlargement inside the crop, 1 or more. */
  readonly mostEnlargement: number;
  /** Share of the picture's own pixels that must be kept, 0..1. */
  readonly leastKept: number;
}

/** Strengths are found to this share. */
const FINEST = 0.0025;

/**
 * The greatest strength for tilt and swing together, 0..1, at which the correction stays bearable and every keep box lies inside the
 * crop; null when even strength 0 does not.
 */
export function asMuchAsFits(correction: Correction, bearable: Bearable): number | null {
  const fits = (strength: number): boolean => isBearable(withStrength(correction, 'tilt', strength, true), bearable);
  if (fits(1)) return 1;
  if (!fits(0)) return null;
  let [low, high] = [0, 1];
  while (high - low > FINEST) {
    const middle = (low + high) / 2;
    if (fits(middle)) low = middle;
    else high = middle;
  }
  return low;
}

function isBearable(correction: Correction, { mostEnlargement, leastKept }: Bearable): boolean {
  try {
    const warp = composeWarp(correction, correction.picture);
    const cost = costOf(warp, warp.crop);
    return cost.peakEnlargement <= mostEnlargement && cost.kept >= leastKept && cutBoxes(correction, warp, warp.crop) === 0;
  } catch (error) {
    if (error instanceof PlumbError) return false;
    throw error;
  }
}
