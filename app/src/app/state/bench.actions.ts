import { createActionGroup, emptyProps, props } from '@ngrx/store';
import type { Compare, Knot, Tool } from './model';

/** What the bench shows; none of it belongs to a picture's correction. */
export const benchActions = createActionGroup({
  source: 'Bench',
  events: {
    /** On the bench, or as the sheet that it is. */
    'Picture Opened': props<{ pictureId: string; sheet: boolean }>(),
    'Knot Opened': props<{ knot: Knot }>(),
    'Tool Taken': props<{ tool: Tool }>(),
    'Marks Switched': emptyProps(),
    'Work Light Switched': emptyProps(),
    'Grid Chosen': props<{ percent: number }>(),
    Compared: props<{ compare: Compare }>(),
    'Original Held': props<{ held: boolean }>(),
    'Drawing On': props<{ on: 'result' | 'original' }>(),
    'Reference Selected': props<{ id: string | null }>(),
  },
});
