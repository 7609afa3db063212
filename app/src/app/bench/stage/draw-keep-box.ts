import { distance, screenToPlane, withKeepBox, type Rect } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { CLICK_PX, type Gesture, type PointerFacts } from './gesture';

/** Drags a keep box over the result: the part of the picture inside is what no crop may cut. */
export function drawKeepBox(model: BenchModel, start: PointerFacts): Gesture | null {
  const view = model.view();
  const warp = model.stageWarp();
  if (!view || !warp) return null;
  const from = screenToPlane(view, start.at);
  const boxTo = ({ at }: PointerFacts): Rect => {
    const to = screenToPlane(view, at);
    return {
      x: Math.min(from[0], to[0]),
      y: Math.min(from[1], to[1]),
      width: Math.abs(to[0] - from[0]),
      height: Math.abs(to[1] - from[1]),
    };
  };
  return {
    move: (pointer) => model.keepDraft.set(boxTo(pointer)),
    release(pointer) {
      model.keepDraft.set(null);
      if (distance(pointer.at, start.at) < CLICK_PX) return false;
      model.commit((c) => withKeepBox(c, warp, boxTo(pointer)));
      model.takeTool('none');
      return false;
    },
    cancel: () => model.keepDraft.set(null),
  };
}
