import type { View } from '@able-plumb/core';
import type { Shown } from '../../session/shown-warp';
import type { ToolContext } from '../tool-context';

/** What the marks of Local need; null at other steps, and while the original is shown or the marks are off. */
export function easeGround(tool: ToolContext): { readonly view: View; readonly shown: Shown } | null {
  const [view, shown] = [tool.view(), tool.shown()];
  return view && shown && tool.step() === 'ease' && !tool.showsOriginal() && tool.marks() ? { view, shown } : null;
}
