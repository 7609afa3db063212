import { createFeature, createReducer, createSelector, on } from '@ngrx/store';
import { correctionActions } from './correction.actions';
import type { SaveState } from './model';
import { shelfActions } from './shelf.actions';

/** The settings among the documents that are saved; every other one is a picture's correction, by its id. */
export const SETTINGS_DOCUMENT = 'settings';

interface SavingState {
  /** Documents that are not on the shelf as they are seen; what is not here is saved. */
  readonly documents: Readonly<Record<string, SaveState>>;
}

const without = (state: SavingState, document: string): SavingState => {
  const { [document]: _saved, ...documents } = state.documents;
  return { ...state, documents };
};

/** One that failed stays so until it is written. */
const waiting = (state: SavingState, document: string): SavingState =>
  state.documents[document] ? state : { ...state, documents: { ...state.documents, [document]: 'waiting' } };

/** What is saved and what is not: said from the moment of the change until its own write has ended. */
export const savingFeature = createFeature({
  name: 'saving',
  reducer: createReducer<SavingState>(
    { documents: {} },
    on(correctionActions.committed, correctionActions.undone, correctionActions.redone, (state, { pictureId }) =>
      waiting(state, pictureId),
    ),
    on(shelfActions.settingsChanged, (state) => waiting(state, SETTINGS_DOCUMENT)),
    on(shelfActions.saved, (state, { document }) => without(state, document)),
    on(shelfActions.savingFailed, (state, { document, message }) => ({
      ...state,
      documents: { ...state.documents, [document]: { failed: message } },
    })),
    on(shelfActions.pictureRemoved, (state, { pictureId }) => without(state, pictureId)),
  ),
  extraSelectors: ({ selectDocuments }) => ({
    /** Why something could not be saved; null while nothing failed. */
    selectSaveError: createSelector(selectDocuments, (documents) => {
      const failed = Object.values(documents).find((state) => typeof state === 'object');
      return typeof failed === 'object' ? failed.failed : null;
    }),
    selectUnsaved: createSelector(selectDocuments, (documents) => Object.keys(documents).length),
  }),
});
