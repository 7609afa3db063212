import type { Point } from '../picture/point';

/** What is known of the lens that bends the edge: how much, as k1 of the radial model, and how sure that is. */
export interface LikelyBend {
  /** Where the lens's axis meets the picture, px. */
  readonly centre: Point;
  readonly k1: number;
  readonly sd: number;
}

/** How much lenses bend, where nothing is known (common practice, no published source): most show barrel, few more than a tenth. */
export const usualBend = (centre: Point): LikelyBend => ({ centre, k1: -0.015, sd: 0.05 });
