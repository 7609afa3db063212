import {
  cropMagnet,
  distance,
  dragCrop,
  freshCrop,
  magnetStep,
  ratioOf,
  screenToPlane,
  turnProportion,
  withCropRect,
  type CropPart,
} from '@able-plumb/core';
import { CLICK_PX, wayOnPlane } from '../kit/pointer-way';
import type { Gesture, Hint, PointerFacts, ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { CropMarks } from './crop-marks';
import { cropPartAt, openCrop } from './crop-part';

/** How far the magnet reaches, screen px. */
const MAGNET_PX = 7;

/** Moves or resizes the crop by one of its parts; it settles on what the magnet offers. */
function dragPart(tool: ToolContext, part: CropPart, start: PointerFacts): Gesture | null {
  const [warp, correction, view, way] = [tool.shown()?.warp, tool.committed(), tool.view(), wayOnPlane(tool, start)];
  if (!warp || !correction || !view || !way) return null;
  const { crop } = warp;
  const held = ratioOf(correction.crop.ratio, warp.turnedSize);
  const magnet = cropMagnet(correction, warp);
  return whileMoved(tool, start, (pointer) => {
    const ratio = held ?? (pointer.shift && part !== 'inside' ? crop.width / crop.height : undefined);
    const options = { ratio, fromCentre: pointer.alt };
    const by = way(pointer.at);
    const free = dragCrop(crop, part, by, options);
    const step = tool.magnet.holds() ? magnetStep(free, part, magnet, MAGNET_PX / (tool.view() ?? view).scale) : [0, 0];
    const rect = dragCrop(crop, part, [by[0] + (step[0] ?? 0), by[1] + (step[1] ?? 0)], options);
    tool.preview((c) => withCropRect(c, rect));
    return true;
  });
}

/** Drags a fresh crop from corner to corner. */
function drawFresh(tool: ToolContext, start: PointerFacts): Gesture | null {
  const [warp, correction, view] = [tool.shown()?.warp, tool.committed(), tool.view()];
  if (!warp || !correction || !view) return null;
  const held = ratioOf(correction.crop.ratio, warp.turnedSize);
  const from = screenToPlane(view, start.at);
  return whileMoved(tool, start, (pointer) => {
    const rect = freshCrop(from, screenToPlane(tool.view() ?? view, pointer.at), held);
    if (rect) tool.preview((c) => withCropRect(c, rect));
    return rect !== null;
  });
}

/**
 * A gesture that shows something with every move, and keeps what is shown.
 * @param show returns false where a move shows nothing
 */
function whileMoved(tool: ToolContext, start: PointerFacts, show: (pointer: PointerFacts) => boolean): Gesture {
  let moved = false;
  return {
    move(pointer) {
      if (moved || distance(pointer.at, start.at) >= CLICK_PX) moved = show(pointer) || moved;
    },
    release() {
      if (moved) tool.commitShown();
      return false;
    },
    cancel: () => tool.cancel(),
  };
}

const partHint = (part: CropPart | null): Hint =>
  part === null
    ? ['crosshair', 'Drag a fresh crop.']
    : part === 'inside'
      ? ['move', 'Drag to move the crop.']
      : [`${part}-resize`, 'Drag to change the crop. Shift keeps the proportions, Alt goes from the centre.'];

/** The rectangle that is exported. */
export const crop: ToolDefinition = {
  id: 'crop',
  step: 'crop',
  name: 'Crop',
  atRest: true,
  actions: [
    {
      action: 'tall-wide',
      keys: ['i'],
      does: 'Crop proportions tall or wide',
      run(tool) {
        tool.commit(turnProportion);
        return true;
      },
    },
  ],
  hint(tool, pointer) {
    const open = openCrop(tool);
    const part = open && cropPartAt(open.view, open.crop, pointer);
    return open && part !== 'beside' ? partHint(part) : null;
  },
  begin(tool, pointer) {
    const open = openCrop(tool);
    const part = open && cropPartAt(open.view, open.crop, pointer);
    if (!open || part === 'beside') return null;
    return part === null ? drawFresh(tool, pointer) : dragPart(tool, part, pointer);
  },
  nudge(tool, by, repeat) {
    const open = openCrop(tool);
    if (open) tool.commit((c) => withCropRect(c, { ...open.crop, x: open.crop.x + by[0], y: open.crop.y + by[1] }), `crop ${repeat}`);
    return open !== null;
  },
  marks: CropMarks,
};
