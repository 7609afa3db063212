import { withShimLine, type DraftLine } from '@able-plumb/core';
import { drawLine } from '../kit/draw-line';
import { settledOn } from '../kit/settled-on';
import { NO_SHIM } from '../shim/no-shim';
import { selectedShim } from '../shim/shim-handles';
import type { ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { ShimLineMarks } from './shim-line-marks';

/** A line more in the shim that is worked on, on the edge that it was drawn along; the tool is laid down. */
function placeShimLine(tool: ToolContext, draft: DraftLine): void {
  const shim = selectedShim(tool);
  tool.layDown();
  if (!shim) return tool.say(NO_SHIM);
  const hand = tool.magnet.byHand();
  tool.place({
    ask: () => tool.magnet.edgesNear(draft.a, draft.b),
    draft,
    land: (c, fits) => {
      const { a, b } = settledOn(draft, fits, hand);
      try {
        return withShimLine(c, shim.id, [a, b]);
      } catch (error) {
        tool.refused(error);
        return c;
      }
    },
  });
}

/** A line in a shim that comes level, plumb or straight. */
export const shimLine: ToolDefinition = {
  id: 'shim-line',
  step: 'ease',
  name: 'Line in the shim',
  enter: 'drag',
  hint: () => ['crosshair', 'Drag along what should be level, plumb or straight.'],
  begin: (tool, at) => drawLine(tool, at, (draft) => placeShimLine(tool, draft)),
  marks: ShimLineMarks,
};
