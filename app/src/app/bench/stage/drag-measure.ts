import { movedReference, type Measure } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';
import { moveHandle } from './move-handle';

/** Moves one end of a measuring line; its length follows. */
export const dragMeasure = (model: BenchModel, measure: Measure, which: 'a' | 'b', start: PointerFacts): Gesture | null =>
  moveHandle(model, start, {
    moved: (warp, by) => movedReference(warp, measure, which, by),
    put: (c, next) => ({
      ...c,
      measures: c.measures.map((m) => (m.id === measure.id ? { ...next, placedPx: model.magnet.byHand().placedPx } : m)),
    }),
    under: (next) => next[which],
  });
