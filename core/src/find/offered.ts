import type { Correction } from '../correction/schema';
import { composeWarp, type Warp } from '../crop/compose-warp';
import { PlumbError } from '../picture/failure';
import { solveCorrection } from '../stance/solve-correction';
import { costOf } from '../warp/cost';
import type { Suggestion, SuggestionKind } from './suggestion';

/** Within so many degrees a suggestion is sure, and likely; less sure ones are not offered. */
export const SURE_DEG = 0.15;
export const LIKELY_DEG = 0.5;

/** How well a line is placed, px, within what the document takes. */
export const placedWithin = (px: number): number => Math.min(1000, Math.max(0.01, px));

/**
 * A document with found lines as a suggestion, solved and with its cost; or why it is none: it cannot be shown, or is not sure enough.
 *
 * @param judge how sure it is, of the solved document
 */
export function offered(
  kind: SuggestionKind,
  asked: Correction,
  judge: (solved: Correction, warp: Warp) => Pick<Suggestion, 'withinDeg' | 'sd' | 'evidence'> & { readonly firm: boolean },
): Suggestion | string {
  const { correction, focal } = solveCorrection(asked, asked.picture);
  try {
    const warp = composeWarp(correction, correction.picture);
    const { firm, ...judged } = judge(correction, warp);
    if (!(judged.withinDeg <= LIKELY_DEG)) return `Its edges tell this only to ${judged.withinDeg.toFixed(1)} degrees.`;
    const { kept, peakEnlargement } = costOf(warp, warp.crop);
    const { roll, tilt, swing } = correction.stance;
    return {
      kind,
      sure: firm && judged.withinDeg <= SURE_DEG ? 'sure' : 'likely',
      ...judged,
      stance: { roll, tilt, swing },
      focalPx: focal?.found ?? null,
      cost: { kept, peak: peakEnlargement },
      correction,
    };
  } catch (error) {
    if (error instanceof PlumbError) return error.message;
    throw error;
  }
}
