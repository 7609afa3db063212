import { PlumbError, pulledBy, screenVectorToPlane, withPulledCorners, type PullHandle, type Quad } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';
import type { Gesture, PointerFacts } from './gesture';

/** Pulls a corner or a side of the picture by eye; the picture follows. Shift moves the other side alike. */
export function pullCorner(model: BenchModel, corners: Quad, handle: PullHandle, start: PointerFacts): Gesture | null {
  const view = model.view();
  if (!view) return null;
  let moved = false;
  return {
    move({ at, shift }) {
      const target = pulledBy(corners, handle, screenVectorToPlane(view, [at[0] - start.at[0], at[1] - start.at[1]]), shift);
      try {
        model.preview((c) => withPulledCorners(c, target));
        moved = true;
      } catch (error) {
        // too far: the picture stays at the last place that works, and the status line says why
        if (!(error instanceof PlumbError)) throw error;
        model.hint.set(error.message);
      }
    },
    release() {
      if (moved) model.commitShown();
      return false;
    },
    cancel: () => model.cancel(),
  };
}
