import type { ReferenceKind, Stance } from '../correction/schema';
import type { Attitude } from '../stance/attitude';

/** What the kinds of lines are called before a front: on floors, ceilings and sheets nothing hangs plumb or lies level. */
export function kindNames(front: Stance['front']): Readonly<Record<ReferenceKind, string>> {
  switch (front) {
    case 'wall':
      return { plumb: 'Plumb', level: 'Level', return: 'Return', eye: 'Eye line' };
    case 'floor':
    case 'ceiling':
      return { plumb: 'Up and down', level: 'Across', return: 'Standing', eye: 'Eye line' };
    case 'sheet':
      return { plumb: 'Up and down', level: 'Across', return: 'Return', eye: 'Eye line' };
  }
}

/** Below this many degrees a movement is not worth a word. */
const SILENT_DEG = 0.005;

/** Degrees with two decimals and a degree sign; a true minus is never shown, the side is said in words. */
export const degreesText = (deg: number): string => `${Math.abs(deg).toFixed(2)}°`;

/** What a deviation is worth saying: two decimals below a degree, never 0.00. */
const deviationText = (sd: number | null | undefined): string =>
  sd == null ? '' : `\u00a0±\u00a0${sd >= 1 ? sd.toFixed(1) : Math.max(0.01, sd).toFixed(2)}°`;

/**
 * The stance in words: "looking up 12.61°, turned left 3.90°, rolled clockwise 1.43°".
 * @param sd standard deviations, degrees; said with each angle where they are given
 */
export function stanceInWords({ roll, tilt, swing }: Attitude, sd: { readonly [movement in keyof Attitude]?: number | null } = {}): string {
  const parts = [
    Math.abs(tilt) >= SILENT_DEG ? `looking ${tilt > 0 ? 'up' : 'down'} ${degreesText(tilt)}${deviationText(sd.tilt)}` : '',
    Math.abs(swing) >= SILENT_DEG ? `turned ${swing > 0 ? 'right' : 'left'} ${degreesText(swing)}${deviationText(sd.swing)}` : '',
    Math.abs(roll) >= SILENT_DEG ? `rolled ${roll > 0 ? 'clockwise' : 'anticlockwise'} ${degreesText(roll)}${deviationText(sd.roll)}` : '',
  ].filter((part) => part !== '');
  const text = parts.join(', ') || unturned(sd);
  return text[0]?.toUpperCase() + text.slice(1);
}

/** What is said where nothing is turned: no more than what is known of the stance. */
function unturned({ roll, tilt, swing }: { readonly [movement in keyof Attitude]?: number | null }): string {
  if (roll == null) return 'as taken; nothing tells how the camera stood';
  return tilt == null || swing == null ? 'level; nothing tells tilt or swing' : 'standing level and square';
}

/** A line's lean or slope with its side: "1.48° up to the right", "3.20° to the left", "true". */
export function lineAngleInWords(kind: 'plumb' | 'level' | 'return' | 'eye', deg: number): string {
  if (Math.abs(deg) < SILENT_DEG) return kind === 'plumb' ? 'plumb' : 'level';
  if (kind === 'plumb') return `${degreesText(deg)} ${deg > 0 ? 'left' : 'right'}`;
  return `${degreesText(deg)} ${deg > 0 ? 'up' : 'down'}`;
}

/** How far the bob swings out at most, degrees. */
const MOST_BOB_DEG = 9;
const bobDeg = (deg: number): number => Math.max(-MOST_BOB_DEG, Math.min(MOST_BOB_DEG, deg * 10));

/**
 * How the bob hangs: the string's turn in SVG degrees (clockwise), what the lines are off magnified ten times and capped; and how far to
 * either side it may hang as well, by what is not known, magnified and capped alike.
 */
export const bobFigure = (offDeg: number, sureDeg: number | null = 0): { readonly turnDeg: number; readonly doubtDeg: number } => ({
  turnDeg: -bobDeg(offDeg),
  doubtDeg: sureDeg === null ? MOST_BOB_DEG : bobDeg(sureDeg),
});
