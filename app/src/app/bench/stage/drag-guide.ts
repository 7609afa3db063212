import { nextGuideId, screenToPlane, withGuide, withoutGuides, type Guide } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';

/** A guide out of a ruler, or one that is there already; let go outside the stage it is removed. */
export function dragGuide(model: BenchModel, axis: Guide['axis'], id: string | null): Gesture | null {
  const view = model.stageView.view();
  const correction = model.session.committed();
  if (!view || !correction) return null;
  const guideId = id ?? nextGuideId(correction.guides);
  const inside = ({ at }: PointerFacts): boolean => at[0] >= 0 && at[1] >= 0 && at[0] <= view.stage.width && at[1] <= view.stage.height;
  let shown = false;
  let kept = false;
  return {
    move(pointer) {
      kept = inside(pointer);
      shown = true;
      const plane = screenToPlane(model.stageView.view() ?? view, pointer.at);
      const at = Math.round(plane[axis === 'x' ? 0 : 1] * 100) / 100;
      model.preview((c) => (kept ? withGuide(c, { id: guideId, axis, at }) : withoutGuides(c, guideId)));
    },
    release() {
      if (shown && (kept || id !== null)) model.session.commitShown();
      else model.session.cancel();
      return false;
    },
    cancel: () => model.session.cancel(),
  };
}
