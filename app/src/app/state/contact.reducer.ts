import { createActionGroup, createFeature, createReducer, on, props } from '@ngrx/store';
import { shelfActions } from './shelf.actions';

/** How the pictures of a contact sheet are ordered. */
export type SheetOrder = 'job' | 'name' | 'taken' | 'lean' | 'found';
/** Which pictures of a contact sheet are shown. */
export type SheetFilter = 'all' | 'untouched' | 'set' | 'linked' | 'attention' | 'sure' | 'likely' | 'silent';

/** What happens on the contact sheet. */
export const contactActions = createActionGroup({
  source: 'Contact Sheet',
  events: {
    Selected: props<{ ids: readonly string[] }>(),
    Ordered: props<{ order: SheetOrder }>(),
    Filtered: props<{ filter: SheetFilter }>(),
  },
});

interface ContactState {
  readonly selection: readonly string[];
  readonly order: SheetOrder;
  readonly filter: SheetFilter;
}

/** The contact sheet: which pictures are selected, in which order they lie, which are shown. */
export const contactFeature = createFeature({
  name: 'contact',
  reducer: createReducer<ContactState>(
    { selection: [], order: 'job', filter: 'all' },
    on(contactActions.selected, (state, { ids }) => ({ ...state, selection: ids })),
    on(contactActions.ordered, (state, { order }) => ({ ...state, order })),
    on(contactActions.filtered, (state, { filter }) => ({ ...state, filter })),
    on(shelfActions.pictureRemoved, (state, { pictureId }) => ({ ...state, selection: state.selection.filter((id) => id !== pictureId) })),
  ),
});
