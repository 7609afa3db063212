import type { ReferenceKind, Stance } from '../correction/schema';
import type { Attitude } from '../stance/attitude';

/** What the kinds of lines are called before a front: on floors, ceilings and sheets nothing hangs plumb or lies level. */
export function kindNames(front: Stance['front']): Readonly<Record<ReferenceKind, string>> {
  switch (front) {
    case 'wall':
      return { plumb: 'Plumb', level: 'Level', return: 'Return', eye: 'Eye line' };
    case 'floor':
    case 'ceiling':
      return { plumb: 'Up and down', level: 'Across', return: 'Upright', eye: 'Eye line' };
    case 'sheet':
      return { plumb: 'Up and down', level: 'Across', return: 'Return', eye: 'Eye line' };
  }
}

/** Below this many degrees a movement is not worth a word. */
const SILENT_DEG = 0.005;

/** Degrees with two decimals and a degree sign; a true minus is never shown, the side is said in words. */
export const degreesText = (deg: number): string => `${Math.abs(deg).toFixed(2)}°`;

/** The stance in words: "looking up 12.61°, turned left 3.90°, rolled clockwise 1.43°". */
export function stanceInWords({ roll, tilt, swing }: Attitude): string {
  const parts = [
    Math.abs(tilt) >= SILENT_DEG ? `looking ${tilt > 0 ? 'up' : 'down'} ${degreesText(tilt)}` : '',
    Math.abs(swing) >= SILENT_DEG ? `turned ${swing > 0 ? 'right' : 'left'} ${degreesText(swing)}` : '',
    Math.abs(roll) >= SILENT_DEG ? `rolled ${roll > 0 ? 'clockwise' : 'anticlockwise'} ${degreesText(roll)}` : '',
  ].filter((part) => part !== '');
  const text = parts.join(', ') || 'standing level and square';
  return text[0]?.toUpperCase() + text.slice(1);
}

/** A line's lean or slope with its side: "1.48° up to the right", "3.20° to the left", "true". */
export function lineAngleInWords(kind: 'plumb' | 'level' | 'return' | 'eye', deg: number): string {
  if (Math.abs(deg) < SILENT_DEG) return kind === 'plumb' ? 'plumb' : 'level';
  if (kind === 'plumb') return `${degreesText(deg)} ${deg > 0 ? 'left' : 'right'}`;
  return `${degreesText(deg)} ${deg > 0 ? 'up' : 'down'}`;
}

/** How the bob hangs: the string's turn in SVG degrees (clockwise), what the lines are off magnified ten times and capped. */
export const bobFigure = (offDeg: number): { readonly turnDeg: number } => ({ turnDeg: -Math.max(-9, Math.min(9, offDeg * 10)) });
