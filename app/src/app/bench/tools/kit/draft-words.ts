import { distance, kindNames, lineAngleInWords, type LineMark } from '@able-plumb/core';
import type { ToolContext } from '../tool-context';

/** A line no longer than this on the screen has no words yet, px. */
const TOO_SHORT_PX = 6;

export const isLongForWords = ({ a, b }: Pick<LineMark, 'a' | 'b'>): boolean => distance(a, b) > TOO_SHORT_PX;

/** What the line at the pointer is by its slope, and its angle, in words; null while the tool is not in the hand or draws nothing. */
export function draftWords(tool: ToolContext, id: string): string | null {
  const [draft, shown] = [tool.drawing.line(), tool.shown()];
  if (!draft || !shown || tool.inHand() !== id) return null;
  const { stance, camera } = shown.correction;
  return `${kindNames(camera.flat ? 'sheet' : stance.front)[draft.kind].toLowerCase()} ${lineAngleInWords(draft.kind, draft.angleDeg)}`;
}
