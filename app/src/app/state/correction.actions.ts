import { createActionGroup, props } from '@ngrx/store';
import type { Correction } from '@able-plumb/core';

/**
 * What is done to a picture's correction: each is one undo step. A change with the `step` of the one before it, made within a second, goes
 * into the same step: a key that is held.
 */
export const correctionActions = createActionGroup({
  source: 'Correction',
  events: {
    Committed: (change: { pictureId: string; correction: Correction; step?: string | undefined; at?: number }) => ({
      at: Date.now(),
      ...change,
    }),
    Undone: props<{ pictureId: string }>(),
    Redone: props<{ pictureId: string }>(),
  },
});
