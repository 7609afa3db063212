import {
  croppedPanel,
  draggedMargin,
  marginHandles,
  panelBox,
  planeToScreen,
  withMargins,
  withPanel,
  type PanelSide,
} from '@able-plumb/core';
import { wayOnPlane } from '../kit/pointer-way';
import { handleFamily, type Gesture, type PointerFacts, type ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { MarginMarks } from './margin-marks';
import { marginsOnPlane } from './margins-on-plane';

/** Drags a margin of the panel that the crop goes round; the crop follows. */
function dragMargin(tool: ToolContext, side: PanelSide, start: PointerFacts): Gesture | null {
  const warp = tool.shown()?.warp;
  const way = wayOnPlane(tool, start);
  const correction = tool.committed();
  const panel = correction && croppedPanel(correction);
  const box = panel && warp && panelBox(correction, warp, panel);
  if (!way || !panel || !box) return null;
  const axis = side === 'left' || side === 'right' ? 0 : 1;
  let moved = false;
  return {
    move({ at }) {
      const by = way(at)[axis];
      moved = true;
      tool.preview((c) => withPanel(c, panel.id, { margins: draggedMargin(box, panel.margins, side, by) }));
    },
    release() {
      if (moved) tool.commitShown();
      return false;
    },
    cancel: () => tool.cancel(),
  };
}

/** The margins of the panel that the crop goes round. */
export const margin: ToolDefinition = {
  id: 'margin',
  step: 'references',
  name: 'Margin',
  handles: handleFamily<PanelSide>({
    grips: (tool) => {
      const [view, margins] = [tool.view(), marginsOnPlane(tool)];
      if (!view || !margins) return [];
      return marginHandles(withMargins(margins.box, margins.margins)).map(({ side, at }) => ({
        id: 'margin',
        part: side,
        at: planeToScreen(view, at),
      }));
    },
    hint: (_, { part }) => [
      part === 'left' || part === 'right' ? 'ew-resize' : 'ns-resize',
      'Drag the margin outwards or inwards; the crop follows.',
    ],
    drag: (tool, { part }, at) => dragMargin(tool, part, at),
  }),
  marks: MarginMarks,
};
