import { planeToScreen, PlumbError, pulledBy, pullHandles, withPulledCorners, type PullHandle, type Quad } from '@able-plumb/core';
import { wayOnPlane } from '../kit/pointer-way';
import { handleFamily, type Gesture, type PointerFacts, type ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { CornerPullMarks } from './corner-pull-marks';
import { pulledCorners } from './pulled-corners';

/** Pulls a corner or a side of the picture by eye; the picture follows. Shift moves the other side alike. */
function pullCorner(tool: ToolContext, corners: Quad, handle: PullHandle, start: PointerFacts): Gesture | null {
  const way = wayOnPlane(tool, start);
  if (!way) return null;
  let moved = false;
  return {
    move({ at, shift }) {
      const target = pulledBy(corners, handle, way(at), shift);
      try {
        tool.preview((c) => withPulledCorners(c, target));
        moved = true;
      } catch (error) {
        // too far: the picture stays at the last place that works, and the status line says why
        if (!(error instanceof PlumbError)) throw error;
        tool.say(error.message);
      }
    },
    release() {
      if (moved) tool.commitShown();
      return false;
    },
    cancel: () => tool.cancel(),
  };
}

/** Correcting by dragging the picture's corners and sides against guides. */
export const cornerPull: ToolDefinition = {
  id: 'corner-pull',
  step: 'stance',
  name: 'Corner pull',
  icon: 'pull',
  alone: true,
  hint: () => ['grab', 'Pull the corners or sides by eye. Drag elsewhere to move the picture.'],
  handles: handleFamily<PullHandle>({
    grips: (tool) => {
      const [view, corners] = [tool.view(), pulledCorners(tool)];
      return view && corners
        ? pullHandles(corners).map((handle) => ({ id: handle.id, part: handle, at: planeToScreen(view, handle.at) }))
        : [];
    },
    hint: () => ['move', 'Pull; with Shift the other side goes along.'],
    drag: (tool, { part }, at) => {
      const corners = pulledCorners(tool);
      return corners && pullCorner(tool, corners, part, at);
    },
  }),
  marks: CornerPullMarks,
};
