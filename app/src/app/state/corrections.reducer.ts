import { createFeature, createReducer, on, type ActionReducer } from '@ngrx/store';
import type { Correction } from '@able-plumb/core';
import { correctionActions } from './correction.actions';
import type { History } from './model';
import { shelfActions } from './shelf.actions';

/** Undo steps kept for a picture. */
const LONGEST_PAST = 200;
/** Repeats of a step that follow within this time are part of it, ms. */
const REPEAT_MS = 1000;

interface CorrectionsState {
  readonly histories: Readonly<Record<string, History>>;
}

const withHistory = (state: CorrectionsState, id: string, change: (history: History) => History): CorrectionsState => {
  const history = state.histories[id];
  const next = history && change(history);
  return next === history || !next ? state : { ...state, histories: { ...state.histories, [id]: next } };
};

/** A history of a picture that nothing was done to yet. */
export const newHistory = (present: Correction): History => ({ past: [], present, future: [], version: 0, step: null });

const base = createReducer<CorrectionsState>(
  { histories: {} },
  // what is read from the shelf never replaces something newer that was done meanwhile
  on(shelfActions.historiesLoaded, (state, { histories }) => {
    const newer = Object.entries(histories).filter(([id, h]) => h.version > (state.histories[id]?.version ?? -1));
    return newer.length === 0 ? state : { ...state, histories: { ...state.histories, ...Object.fromEntries(newer) } };
  }),
  on(shelfActions.historyReplaced, (state, { pictureId, history }) => ({
    ...state,
    histories: { ...state.histories, [pictureId]: history },
  })),
  on(shelfActions.pictureRemoved, (state, { pictureId }) => {
    const { [pictureId]: _removed, ...histories } = state.histories;
    return { ...state, histories };
  }),
  on(correctionActions.committed, (state, { pictureId, correction }) =>
    withHistory(state, pictureId, (h) => (same(h.present, correction) ? h : { ...h, present: correction, version: h.version + 1 })),
  ),
);

const same = (a: Correction, b: Correction): boolean => a === b || JSON.stringify(a) === JSON.stringify(b);

/** The one place where undo lives: every committed change leaves what it replaced in the past. */
export function undoable(reducer: ActionReducer<CorrectionsState>): ActionReducer<CorrectionsState> {
  return (before, action) => {
    const after = reducer(before, action);
    if (action.type === correctionActions.committed.type && before) {
      const { pictureId, step, at } = action as ReturnType<typeof correctionActions.committed>;
      const replaced = before.histories[pictureId];
      if (!replaced || replaced === after.histories[pictureId]) return after;
      const last = replaced.step;
      const repeats = step !== undefined && last?.name === step && at - last.at <= REPEAT_MS && replaced.past.length > 0;
      return withHistory(after, pictureId, (h) => ({
        ...h,
        past: repeats ? h.past : [...h.past, replaced.present].slice(-LONGEST_PAST),
        future: [],
        step: step === undefined ? null : { name: step, at },
      }));
    }
    if (action.type === correctionActions.undone.type) {
      const { pictureId } = action as ReturnType<typeof correctionActions.undone>;
      return withHistory(after, pictureId, (h) => {
        const previous = h.past.at(-1);
        if (!previous) return h;
        return { past: h.past.slice(0, -1), present: previous, future: [h.present, ...h.future], version: h.version + 1, step: null };
      });
    }
    if (action.type === correctionActions.redone.type) {
      const { pictureId } = action as ReturnType<typeof correctionActions.redone>;
      return withHistory(after, pictureId, (h) => {
        const [next, ...rest] = h.future;
        return next ? { past: [...h.past, h.present], present: next, future: rest, version: h.version + 1, step: null } : h;
      });
    }
    return after;
  };
}

/** The correction documents with their histories. */
export const correctionsFeature = createFeature({ name: 'corrections', reducer: undoable(base) });
