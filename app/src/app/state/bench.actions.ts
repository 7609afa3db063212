import { createActionGroup, emptyProps, props } from '@ngrx/store';
import type { Compare, Step, ToolId } from './model';

/** What the bench shows; none of it belongs to a picture's correction. */
export const benchActions = createActionGroup({
  source: 'Bench',
  events: {
    /** On the bench, or as the sheet that it is; with a tool in the hand. */
    'Picture Opened': props<{ pictureId: string; sheet: boolean; tool: ToolId | null }>(),
    'Step Opened': props<{ step: Step; tool: ToolId | null }>(),
    /** With the step that it belongs to. */
    'Tool Taken': props<{ tool: ToolId; step: Step }>(),
    'Tool Laid Down': emptyProps(),
    'Marks Switched': emptyProps(),
    'Work Light Switched': emptyProps(),
    'Grid Chosen': props<{ percent: number }>(),
    Compared: props<{ compare: Compare }>(),
    'Original Held': props<{ held: boolean }>(),
    'Drawing On': props<{ on: 'result' | 'original' }>(),
    Selected: props<{ id: string | null }>(),
  },
});
