import { croppedPanel, panelBox, type Panel } from '@able-plumb/core';
import type { ToolContext } from '../tool-context';

/** The box of the panel that the crop goes round by itself, plane px, and its margins; null where there is none to show. */
export function marginsOnPlane(
  tool: ToolContext,
): { readonly box: NonNullable<ReturnType<typeof panelBox>>; readonly margins: Panel['margins'] } | null {
  const shown = tool.shown();
  if (!shown || tool.showsOriginal() || tool.step() !== 'references' || !tool.marks()) return null;
  const { correction, warp } = shown;
  const { around, rect } = correction.crop;
  const panel = around === 'panel' && !rect ? croppedPanel(correction) : null;
  const box = panel && panelBox(correction, warp, panel);
  return panel && box ? { box, margins: panel.margins } : null;
}
