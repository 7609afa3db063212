import { screenToPlane, withFillBox, withFillStroke, type FillArea } from '@able-plumb/core';
import { drawBox } from '../kit/draw-box';
import type { Gesture, PointerFacts, ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { FillMarks } from './fill-marks';

/** About as wide as a finger, screen px. */
const BRUSH_PX = 26;

/** Where filling may copy from, or may not: a box, or a stroke of the brush. */
function drawFillArea(tool: ToolContext, kind: FillArea['kind'], start: PointerFacts): Gesture | null {
  const { stroke, brush } = tool.drawing;
  if (!brush()) return drawBox(tool, start, (c, warp, box) => withFillBox(c, warp, box, kind));
  const view = tool.view();
  const warp = tool.warp();
  if (!view || !warp) return null;
  stroke.set([screenToPlane(view, start.at)]);
  return {
    move: ({ at }) => stroke.update((all) => [...all, screenToPlane(tool.view() ?? view, at)]),
    release() {
      const points = stroke();
      stroke.set([]);
      tool.attempt((c) => withFillStroke(c, warp, points, BRUSH_PX / view.scale, kind));
      return false;
    },
    cancel: () => stroke.set([]),
  };
}

/** Keeps what must not be copied out of the empty part. The marks of all that steers filling are this tool's. */
export const fillNot: ToolDefinition = {
  id: 'fill-not',
  step: 'crop',
  name: 'Not from here',
  enter: 'drag',
  hint: () => ['crosshair', 'Drag over what must not be copied into the empty part.'],
  begin: (tool, at) => drawFillArea(tool, 'not', at),
  marks: FillMarks,
};

/** Lets nothing but this be copied into the empty part. */
export const fillOnly: ToolDefinition = {
  id: 'fill-only',
  step: 'crop',
  name: 'Only from here',
  enter: 'drag',
  hint: () => ['crosshair', 'Drag over what alone may be copied into the empty part.'],
  begin: (tool, at) => drawFillArea(tool, 'only', at),
};
