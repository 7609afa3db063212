import { createEntityAdapter, type EntityState } from '@ngrx/entity';
import { createFeature, createReducer, on } from '@ngrx/store';
import type { LensProfile } from '@able-plumb/core';
import { shelfActions } from './shelf.actions';

const adapter = createEntityAdapter<LensProfile>({ sortComparer: (a, b) => a.name.localeCompare(b.name) });

interface ProfilesState {
  readonly profiles: EntityState<LensProfile>;
}

/** The lens profiles in the cabinet. */
export const profilesFeature = createFeature({
  name: 'profiles',
  reducer: createReducer<ProfilesState>(
    { profiles: adapter.getInitialState() },
    on(shelfActions.loaded, shelfActions.profilesFollowed, (_state, { profiles }) => ({
      profiles: adapter.setAll([...profiles], adapter.getInitialState()),
    })),
    on(shelfActions.profileSaved, (state, { profile }) => ({ profiles: adapter.upsertOne(profile, state.profiles) })),
    on(shelfActions.profileRemoved, (state, { id }) => ({ profiles: adapter.removeOne(id, state.profiles) })),
  ),
});

export const profileSelectors = adapter.getSelectors();
