import { nextGuideId, screenToPlane, withGuide, withoutGuides, type Guide } from '@able-plumb/core';
import { handleFamily, type Gesture, type PointerFacts, type ToolDefinition } from '../tool';
import type { ToolContext } from '../tool-context';
import { GuideMarks } from './guide-marks';
import { guidesOnStage } from './guides-on-stage';

const REACH_PX = 4;

/** A guide out of a ruler, or one that is there already; let go outside the stage it is removed. */
export function dragGuide(tool: ToolContext, axis: Guide['axis'], id: string | null): Gesture | null {
  const view = tool.view();
  const correction = tool.committed();
  if (!view || !correction) return null;
  const guideId = id ?? nextGuideId(correction.guides);
  const inside = ({ at }: PointerFacts): boolean => at[0] >= 0 && at[1] >= 0 && at[0] <= view.stage.width && at[1] <= view.stage.height;
  let shown = false;
  let kept = false;
  return {
    move(pointer) {
      kept = inside(pointer);
      shown = true;
      const plane = screenToPlane(tool.view() ?? view, pointer.at);
      const at = Math.round(plane[axis === 'x' ? 0 : 1] * 100) / 100;
      tool.preview((c) => (kept ? withGuide(c, { id: guideId, axis, at }) : withoutGuides(c, guideId)));
    },
    release() {
      if (shown && (kept || id !== null)) tool.commitShown();
      else tool.cancel();
      return false;
    },
    cancel: () => tool.cancel(),
  };
}

/** Guides out of the rulers. */
export const guide: ToolDefinition = {
  id: 'guide',
  step: 'references',
  name: 'Guide',
  fromRuler: (tool, axis) => dragGuide(tool, axis, null),
  handles: handleFamily<Guide['axis']>({
    under: (tool, { at }) => {
      const found = guidesOnStage(tool).find((g) => Math.abs(at[g.axis === 'x' ? 0 : 1] - g.at) <= REACH_PX);
      return found ? { id: found.id, part: found.axis } : null;
    },
    hint: (_, { part }) => [part === 'x' ? 'ew-resize' : 'ns-resize', 'Drag the guide; drag it off the stage to remove it.'],
    drag: (tool, { id, part }) => dragGuide(tool, part, id),
  }),
  marks: GuideMarks,
};
