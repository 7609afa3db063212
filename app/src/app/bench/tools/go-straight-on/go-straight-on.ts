import { withStraightOn, type DraftLine } from '@able-plumb/core';
import { drawLine } from '../kit/draw-line';
import { settledOn } from '../kit/settled-on';
import type { ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { GoStraightOnMarks } from './go-straight-on-marks';

/** A line that goes straight on into an empty part, on the edge that it was drawn along; the tool is laid down. */
function placeStraightOn(tool: ToolContext, draft: DraftLine): void {
  tool.layDown();
  const hand = tool.magnet.byHand();
  tool.place({
    ask: () => tool.magnet.edgesNear(draft.a, draft.b),
    draft,
    land: (c, fits) => {
      const { a, b } = settledOn(draft, fits, hand);
      return withStraightOn(c, a, b);
    },
  });
}

/** An edge that filling carries on in a straight line. */
export const goStraightOn: ToolDefinition = {
  id: 'go-straight-on',
  step: 'crop',
  name: 'Straight on',
  enter: 'drag',
  hint: () => ['crosshair', 'Drag along an edge up to the empty part: there it goes straight on.'],
  begin: (tool, at) => drawLine(tool, at, (draft) => placeStraightOn(tool, draft)),
  marks: GoStraightOnMarks,
};
