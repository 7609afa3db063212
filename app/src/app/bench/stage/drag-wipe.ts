import type { BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';

/** Whether a pointer is on the wipe's line. */
export function onWipe(model: BenchModel, { at, reach }: PointerFacts): boolean {
  const view = model.stageView.view();
  return model.compare() === 'wipe' && view !== null && Math.abs(at[0] - model.wipe() * view.stage.width) <= reach;
}

/** Moves the wipe's line with the pointer. */
export function dragWipe(model: BenchModel): Gesture {
  const before = model.wipe();
  return {
    move({ at }) {
      const view = model.stageView.view();
      if (view) model.wipe.set(Math.min(1, Math.max(0, at[0] / view.stage.width)));
    },
    release: () => false,
    cancel: () => model.wipe.set(before),
  };
}
