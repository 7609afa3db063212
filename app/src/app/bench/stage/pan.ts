import { panBy } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';

/** The picture follows the pointer. */
export function pan(model: BenchModel, start: PointerFacts): Gesture | null {
  const view = model.stageView.view();
  if (!view) return null;
  return {
    move({ at }) {
      model.stageView.viewHeld.set(true);
      model.stageView.view.set(panBy(view, [at[0] - start.at[0], at[1] - start.at[1]]));
    },
    release: () => false,
    cancel: () => model.stageView.view.set(view),
  };
}
