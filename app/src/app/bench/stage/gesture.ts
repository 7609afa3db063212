import { screenToPlane, type Point } from '@able-plumb/core';
import type { BenchModel } from '../bench-model';

/** A pointer as plain data: screen px on the stage and the modifiers that matter. */
export interface PointerFacts {
  readonly at: Point;
  readonly shift: boolean;
  readonly alt: boolean;
  /** How far a handle reaches, screen px: more by touch. */
  readonly reach: number;
}

/** Something that lasts from a press to a release; every move is computed from the snapshot at its start. */
export interface Gesture {
  move(pointer: PointerFacts): void;
  /** Returns true when the gesture goes on after the release (click, then click). */
  release(pointer: PointerFacts): boolean;
  cancel(): void;
}

/** The way on the plane from a press to a pointer, px, whatever was zoomed or panned meanwhile; null without a view. */
export function wayOnPlane(model: BenchModel, start: PointerFacts): ((at: Point) => Point) | null {
  const before = model.stageView.view();
  if (!before) return null;
  const from = screenToPlane(before, start.at);
  return (at) => {
    const to = screenToPlane(model.stageView.view() ?? before, at);
    return [to[0] - from[0], to[1] - from[1]];
  };
}

/** Below this way a press and release are a click, screen px. */
export const CLICK_PX = 4;
