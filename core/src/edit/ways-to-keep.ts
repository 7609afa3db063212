import type { Correction } from '../correction/schema';
import { composeWarp } from '../crop/compose-warp';
import { cutBoxes } from '../crop/keep-boxes';
import { asMuchAsFits } from './as-much-as-fits';
import { withTrim } from './crop';
import { withStrength } from './stance';
import { PlumbError } from '../picture/failure';
import { costOf } from '../warp/cost';

/** One way out for a crop that cuts what is to be kept, with what it comes to. */
export interface WayToKeep {
  readonly kind: 'around-keep' | 'hold-back' | 'keep-edges';
  readonly correction: Correction;
  /** Share of the picture's own pixels kept, 0..1. */
  readonly kept: number;
  /** How much of tilt and swing is taken out, 0..1. */
  readonly strength: number;
}

/**
 * Ways out where the crop cuts a keep box, or cannot be had because of one: the largest crop around the boxes, less of tilt and swing
 * taken out, empty edges kept. None where every box lies inside.
 */
export function waysToKeep(correction: Correction): readonly WayToKeep[] {
  if (correction.crop.keep.length === 0 || keepsAll(correction)) return [];
  const { strength } = correction.stance;
  const offers: readonly (readonly [WayToKeep['kind'], () => Correction | null])[] = [
    ['around-keep', () => withTrim(correction, { edges: 'clear', around: 'keep' })],
    ['hold-back', () => heldBack(withTrim(correction, { edges: 'clear' }))],
    ['keep-edges', () => withTrim(correction, { edges: 'keep', around: 'picture' })],
  ];
  return offers.flatMap(([kind, offer]) => {
    try {
      const next = offer();
      if (!next || !keepsAll(next)) return [];
      const warp = composeWarp(next, next.picture);
      return [{ kind, correction: next, kept: costOf(warp, warp.crop).kept, strength: Math.min(strength.tilt, next.stance.strength.tilt) }];
    } catch (error) {
      if (error instanceof PlumbError) return [];
      throw error;
    }
  });
}

/** The most that can be taken out with every box inside; null where that would be nothing or already all. */
function heldBack(correction: Correction): Correction | null {
  const share = asMuchAsFits(correction, { mostEnlargement: Infinity, leastKept: 0 });
  const percent = Math.floor((share ?? 0) * 100);
  return percent < 1 || percent > 99 ? null : withStrength(correction, 'tilt', percent / 100, true);
}

function keepsAll(correction: Correction): boolean {
  try {
    const warp = composeWarp(correction, correction.picture);
    return cutBoxes(correction, warp, warp.crop) === 0;
  } catch (error) {
    if (error instanceof PlumbError) return false;
    throw error;
  }
}
