import type { Crop } from '../correction/schema';
import type { Size } from '../picture/point';

/** A fixed proportion for print and screen (common practice, no published source, except root 2: ISO 216). */
export interface Proportion {
  readonly name: string;
  readonly ratio: Crop['ratio'];
}

/** The fixed proportions, in the order in which they are offered; wide ones, each can be turned tall. */
export const PROPORTIONS: readonly Proportion[] = [
  { name: 'free', ratio: 'free' },
  { name: 'as taken', ratio: 'as-taken' },
  { name: '1:1', ratio: 1 },
  { name: '5:4', ratio: 5 / 4 },
  { name: '4:3', ratio: 4 / 3 },
  { name: '7:5', ratio: 7 / 5 },
  { name: '3:2', ratio: 3 / 2 },
  { name: '√2', ratio: Math.SQRT2 },
  { name: '16:10', ratio: 16 / 10 },
  { name: '16:9', ratio: 16 / 9 },
];

/** Width / height that a crop's answer stands for; undefined when free. `turned` is the turned picture's size. */
export function ratioOf(ratio: Crop['ratio'], turned: Size): number | undefined {
  if (ratio === 'free') return undefined;
  return ratio === 'as-taken' ? turned.width / turned.height : ratio;
}

/**
 * Reads proportions as people type them: "6:2", "7 x 3", "1.85", "√2".
 * @returns width / height between 1/50 and 50, or null when it is none
 */
export function parseProportion(text: string): number | null {
  const clean = text.trim().toLowerCase().replace(',', '.');
  if (/^(√2|root ?2)$/.test(clean)) return Math.SQRT2;
  const match = /^(\d+(?:\.\d+)?)\s*(?:[:x×/]\s*(\d+(?:\.\d+)?))?$/.exec(clean);
  if (!match) return null;
  const ratio = Number(match[1]) / Number(match[2] ?? 1);
  return Number.isFinite(ratio) && ratio >= 1 / 50 && ratio <= 50 ? ratio : null;
}
