import { guideLines, type StageLine } from '@able-plumb/core';
import type { ToolContext } from '../tool-context';

/** The guides as the stage shows them, screen px; none over the original, and while the marks are off. */
export function guidesOnStage(tool: ToolContext): readonly StageLine[] {
  const [view, document] = [tool.view(), tool.document()];
  return view && document && tool.marks() && !tool.showsOriginal() ? guideLines(view, document.guides) : [];
}
