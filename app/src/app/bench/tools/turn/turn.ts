import { degreesText, distance, rectCentre, screenToPlane, turnedByDeg, withRollAdjust } from '@able-plumb/core';
import { cropPartAt, openCrop } from '../crop/crop-part';
import { CLICK_PX } from '../kit/pointer-way';
import type { Gesture, PointerFacts, ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';

const isBeside = (tool: ToolContext, pointer: PointerFacts): boolean => {
  const open = openCrop(tool);
  return open !== null && cropPartAt(open.view, open.crop, pointer) === 'beside';
};

/** Turns the picture about the middle of the crop; the angle is read at the pointer. */
function turnPicture(tool: ToolContext, start: PointerFacts): Gesture | null {
  const [open, correction] = [openCrop(tool), tool.committed()];
  if (!open || !correction) return null;
  const centre = rectCentre(open.crop);
  const from = screenToPlane(open.view, start.at);
  let moved = false;
  return {
    move({ at }) {
      if (!moved && distance(at, start.at) < CLICK_PX) return;
      moved = true;
      const by = turnedByDeg(centre, from, screenToPlane(tool.view() ?? open.view, at));
      tool.preview((c) => withRollAdjust(c, correction.stance.adjust.roll + by));
      tool.tag.set({ words: `${degreesText(by)} ${by > 0 ? 'clockwise' : 'anticlockwise'}`, at });
    },
    release() {
      tool.tag.set(null);
      if (moved) tool.commitShown();
      return false;
    },
    cancel() {
      tool.tag.set(null);
      tool.cancel();
    },
  };
}

/** Turning the picture by eye, beside a corner of the crop. */
export const turn: ToolDefinition = {
  id: 'turn',
  step: 'crop',
  name: 'Turn',
  atRest: true,
  hint: (tool, pointer) => (isBeside(tool, pointer) ? ['alias', 'Drag to turn the picture.'] : null),
  begin: (tool, pointer) => (isBeside(tool, pointer) ? turnPicture(tool, pointer) : null),
};
