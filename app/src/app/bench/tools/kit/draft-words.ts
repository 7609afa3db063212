import { kindNames, lineAngleInWords } from '@able-plumb/core';
import type { ToolContext } from '../tool-context';

/** What the line at the pointer is by its slope, and its angle, in words; null while the tool is not in the hand or draws nothing. */
export function draftWords(tool: ToolContext, id: string): string | null {
  const [draft, shown] = [tool.drawing.line(), tool.shown()];
  if (!draft || !shown || tool.inHand() !== id) return null;
  const { stance, camera } = shown.correction;
  return `${kindNames(camera.flat ? 'sheet' : stance.front)[draft.kind].toLowerCase()} ${lineAngleInWords(draft.kind, draft.angleDeg)}`;
}
