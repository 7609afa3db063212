import { movedReference, planeToScreen, screenVectorToPlane, toPlane, type Measure } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';

/** Moves one end of a measuring line; its length follows. */
export function dragMeasure(model: BenchModel, measure: Measure, which: 'a' | 'b', start: PointerFacts): Gesture | null {
  const warp = model.stageWarp();
  const view = model.view();
  if (!warp || !view) return null;
  return {
    move({ at }) {
      const next = movedReference(warp, measure, which, screenVectorToPlane(view, [at[0] - start.at[0], at[1] - start.at[1]]));
      if (!next) return;
      model.preview((c) => ({ ...c, measures: c.measures.map((m) => (m.id === measure.id ? next : m)) }));
      const plane = toPlane(warp, next[which]);
      if (plane) model.loupe.set({ at: plane, screen: planeToScreen(view, plane) });
    },
    release() {
      model.loupe.set(null);
      if (model.gestureActive()) model.commitShown();
      return false;
    },
    cancel() {
      model.loupe.set(null);
      model.cancel();
    },
  };
}
