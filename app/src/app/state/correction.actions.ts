import { createActionGroup, props } from '@ngrx/store';
import type { Correction } from '@able-plumb/core';

/** One gesture on a picture's correction is previewed while it lasts and then committed or cancelled: one undo step. */
export const correctionActions = createActionGroup({
  source: 'Correction',
  events: {
    Previewed: props<{ pictureId: string; correction: Correction }>(),
    Committed: props<{ pictureId: string; correction: Correction }>(),
    Cancelled: props<{ pictureId: string }>(),
    Undone: props<{ pictureId: string }>(),
    Redone: props<{ pictureId: string }>(),
  },
});
