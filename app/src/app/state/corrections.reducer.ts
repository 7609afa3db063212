import { createFeature, createReducer, on, type ActionReducer } from '@ngrx/store';
import type { Correction } from '@able-plumb/core';
import { correctionActions } from './correction.actions';
import type { History } from './model';
import { shelfActions } from './shelf.actions';

/** Undo steps kept for a picture. */
const LONGEST_PAST = 200;

interface CorrectionsState {
  readonly histories: Readonly<Record<string, History>>;
}

const withHistory = (state: CorrectionsState, id: string, change: (history: History) => History): CorrectionsState => {
  const history = state.histories[id];
  return history ? { ...state, histories: { ...state.histories, [id]: change(history) } } : state;
};

const base = createReducer<CorrectionsState>(
  { histories: {} },
  on(shelfActions.historiesLoaded, (state, { histories }) => ({ ...state, histories: { ...state.histories, ...histories } })),
  on(correctionActions.previewed, (state, { pictureId, correction }) => withHistory(state, pictureId, (h) => ({ ...h, live: correction }))),
  on(correctionActions.committed, (state, { pictureId, correction }) =>
    withHistory(state, pictureId, (h) => ({ ...h, live: null, present: correction })),
  ),
  on(correctionActions.cancelled, (state, { pictureId }) => withHistory(state, pictureId, (h) => ({ ...h, live: null }))),
);

const same = (a: Correction, b: Correction): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);

/** The one place where undo lives: every committed change leaves what it replaced in the past. */
export function undoable(reducer: ActionReducer<CorrectionsState>): ActionReducer<CorrectionsState> {
  return (before, action) => {
    const after = reducer(before, action);
    if (action.type === correctionActions.committed.type && before) {
      const { pictureId } = action as ReturnType<typeof correctionActions.committed>;
      const replaced = before.histories[pictureId];
      if (!replaced || same(replaced.present, (after.histories[pictureId] as History).present)) return after;
      return withHistory(after, pictureId, (h) => ({ ...h, past: [...h.past, replaced.present].slice(-LONGEST_PAST), future: [] }));
    }
    if (action.type === correctionActions.undone.type) {
      const { pictureId } = action as ReturnType<typeof correctionActions.undone>;
      return withHistory(after, pictureId, (h) => {
        const previous = h.past.at(-1);
        return previous ? { past: h.past.slice(0, -1), present: previous, future: [h.present, ...h.future], live: null } : h;
      });
    }
    if (action.type === correctionActions.redone.type) {
      const { pictureId } = action as ReturnType<typeof correctionActions.redone>;
      return withHistory(after, pictureId, (h) => {
        const [next, ...rest] = h.future;
        return next ? { past: [...h.past, h.present], present: next, future: rest, live: null } : h;
      });
    }
    return after;
  };
}

/** The correction documents with their histories. */
export const correctionsFeature = createFeature({ name: 'corrections', reducer: undoable(base) });
