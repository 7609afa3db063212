import type { Point } from '@able-plumb/core';

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

/** Below this way a press and release are a click, screen px. */
export const CLICK_PX = 4;
