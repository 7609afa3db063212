import { createActionGroup, createFeature, createReducer, on, props } from '@ngrx/store';
import type { Correction, Said } from '@able-plumb/core';
import { shelfActions } from './shelf.actions';

/** What happens while pictures are asked what they say by themselves. */
export const findingActions = createActionGroup({
  source: 'Finding',
  events: {
    Asked: props<{ pictureIds: readonly string[] }>(),
    Found: props<{ pictureId: string; seenWith: string; said: Said }>(),
    Failed: props<{ pictureId: string; seenWith: string; why: string }>(),
    /** They are asked no longer. */
    Left: props<{ pictureIds: readonly string[] }>(),
    /** A person does not want what a picture suggests. */
    Refused: props<{ pictureId: string }>(),
    /** The sure lines of many pictures were taken at once; none: taken back. */
    TakenAtOnce: props<{ taken: readonly TakenAtOnce[] }>(),
  },
});

/** A picture whose lines were taken at once with others', and the version of its correction since. */
export interface TakenAtOnce {
  readonly id: string;
  readonly version: number;
}

/** What a picture said, and with what lens and camera it was looked at. */
export interface Finding {
  readonly seenWith: string;
  /** Null where it could not be asked. */
  readonly said: Said | null;
  readonly why: string;
  readonly refused: boolean;
}

interface FindingState {
  readonly findings: Readonly<Record<string, Finding>>;
  /** Pictures that are being asked. */
  readonly asked: readonly string[];
  /** What was taken at once last, for as long as it can be taken back at once. */
  readonly taken: readonly TakenAtOnce[];
}

/** What pictures said by themselves. It comes from their pixels and can be had again, so it is not kept on the shelf. */
export const findingFeature = createFeature({
  name: 'finding',
  reducer: createReducer<FindingState>(
    { findings: {}, asked: [], taken: [] },
    on(findingActions.asked, (state, { pictureIds }) => ({ ...state, asked: [...new Set([...state.asked, ...pictureIds])] })),
    on(findingActions.found, (state, { pictureId, seenWith, said }) =>
      withFinding(state, pictureId, { seenWith, said, why: '', refused: false }),
    ),
    on(findingActions.failed, (state, { pictureId, seenWith, why }) =>
      withFinding(state, pictureId, { seenWith, said: null, why, refused: false }),
    ),
    on(findingActions.left, (state, { pictureIds }) => ({ ...state, asked: state.asked.filter((id) => !pictureIds.includes(id)) })),
    on(findingActions.refused, (state, { pictureId }) => {
      const finding = state.findings[pictureId];
      return finding ? withFinding(state, pictureId, { ...finding, refused: true }) : state;
    }),
    on(findingActions.takenAtOnce, (state, { taken }) => ({ ...state, taken })),
    on(shelfActions.pictureRemoved, (state, { pictureId }) => ({
      findings: Object.fromEntries(Object.entries(state.findings).filter(([id]) => id !== pictureId)),
      asked: state.asked.filter((id) => id !== pictureId),
      taken: state.taken.filter(({ id }) => id !== pictureId),
    })),
  ),
});

const withFinding = (state: FindingState, pictureId: string, finding: Finding): FindingState => ({
  ...state,
  findings: { ...state.findings, [pictureId]: finding },
  asked: state.asked.filter((id) => id !== pictureId),
});

/** Everything of a correction that what is found in its picture depends on: another lens, and it has to be asked again. */
export const seenWith = ({ camera, lens, stance }: Correction): string =>
  JSON.stringify([camera.focalPx, camera.focalFrom, camera.centre, camera.flat, camera.level, lens.on && lens.model, stance.quarterTurns]);
