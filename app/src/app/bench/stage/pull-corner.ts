import { PlumbError, pulledBy, withPulledCorners, type PullHandle, type Quad } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import { wayOnPlane, type Gesture, type PointerFacts } from './gesture';

/** Pulls a corner or a side of the picture by eye; the picture follows. Shift moves the other side alike. */
export function pullCorner(model: BenchModel, corners: Quad, handle: PullHandle, start: PointerFacts): Gesture | null {
  const way = wayOnPlane(model, start);
  if (!way) return null;
  let moved = false;
  return {
    move({ at, shift }) {
      const target = pulledBy(corners, handle, way(at), shift);
      try {
        model.preview((c) => withPulledCorners(c, target));
        moved = true;
      } catch (error) {
        // too far: the picture stays at the last place that works, and the status line says why
        if (!(error instanceof PlumbError)) throw error;
        model.hand.hint.set(error.message);
      }
    },
    release() {
      if (moved) model.session.commitShown();
      return false;
    },
    cancel: () => model.session.cancel(),
  };
}
