import { createEntityAdapter, type EntityState } from '@ngrx/entity';
import { createFeature, createReducer, on } from '@ngrx/store';
import type { Job, Picture, Settings } from './model';
import { shelfActions } from './shelf.actions';

const jobAdapter = createEntityAdapter<Job>({ sortComparer: (a, b) => b.changedAt - a.changedAt });
const pictureAdapter = createEntityAdapter<Picture>();

export const DEFAULT_SETTINGS: Settings = {
  theme: 'light',
  stageGrey: 0x8c,
  magnet: true,
  ownProportions: [],
  exportChoice: {
    kind: 'jpeg',
    quality: 92,
    chroma: '4:4:4',
    smallest: false,
    bits: 'as-taken',
    compression: 'deflate',
    lossless: false,
    kept: 'all',
    mostKb: null,
    pattern: '{name}-plumb',
  },
  exportTo: 'zip',
  deliveries: [],
  standingDeliveries: [],
  shade: 0.56,
  settingOut: { name: 'none', parts: 5, attitude: 0, peg: false },
  sideWidth: 316,
  sidePut: false,
  readings: 'room',
  ownKeys: {},
};

interface JobsState {
  readonly loaded: boolean;
  readonly jobs: EntityState<Job>;
  readonly pictures: EntityState<Picture>;
  readonly settings: Settings;
  /** Jobs that another tab writes; here they are followed. */
  readonly elsewhere: readonly string[];
  /** Sentences about the shelf that were not read yet. */
  readonly notices: readonly string[];
}

const initial: JobsState = {
  loaded: false,
  jobs: jobAdapter.getInitialState(),
  pictures: pictureAdapter.getInitialState(),
  settings: DEFAULT_SETTINGS,
  elsewhere: [],
  notices: [],
};

const withSettings = (before: Settings, change: Partial<Settings> | null): Settings => ({
  ...before,
  ...change,
  exportChoice: { ...before.exportChoice, ...change?.exportChoice },
});

/** Jobs, pictures and settings: everything but the corrections. */
export const jobsFeature = createFeature({
  name: 'jobs',
  reducer: createReducer(
    initial,
    on(shelfActions.loaded, (state, { jobs, pictures, settings }) => ({
      ...state,
      loaded: true,
      jobs: jobAdapter.setAll([...jobs], state.jobs),
      pictures: pictureAdapter.setAll([...pictures], state.pictures),
      settings: withSettings(DEFAULT_SETTINGS, settings),
    })),
    on(shelfActions.jobSaved, (state, { job }) => ({ ...state, jobs: jobAdapter.upsertOne(job, state.jobs) })),
    on(shelfActions.jobRemoved, (state, { jobId }) => ({
      ...state,
      jobs: jobAdapter.removeOne(jobId, state.jobs),
      pictures: pictureAdapter.removeMany((picture) => picture.jobId === jobId, state.pictures),
      elsewhere: state.elsewhere.filter((id) => id !== jobId),
    })),
    on(shelfActions.jobFollowed, (state, { job, pictures }) => ({
      ...state,
      jobs: jobAdapter.upsertOne(job, state.jobs),
      pictures: pictureAdapter.setMany(
        [...pictures],
        pictureAdapter.removeMany((picture) => picture.jobId === job.id, state.pictures),
      ),
    })),
    on(shelfActions.jobElsewhere, (state, { jobId, elsewhere }) => ({
      ...state,
      elsewhere: [...state.elsewhere.filter((id) => id !== jobId), ...(elsewhere ? [jobId] : [])],
    })),
    on(shelfActions.picturesAdded, (state, { pictures }) => ({
      ...state,
      pictures: pictureAdapter.setMany([...pictures], state.pictures),
    })),
    on(shelfActions.pictureRemoved, (state, { pictureId }) => ({
      ...state,
      pictures: pictureAdapter.removeOne(pictureId, state.pictures),
    })),
    on(shelfActions.settingsChanged, (state, { change }) => ({ ...state, settings: { ...state.settings, ...change } })),
    on(shelfActions.settingsFollowed, (state, { settings }) => ({ ...state, settings: withSettings(DEFAULT_SETTINGS, settings) })),
    on(shelfActions.noticed, (state, { sentence }) =>
      state.notices.includes(sentence) ? state : { ...state, notices: [...state.notices, sentence] },
    ),
    on(shelfActions.noticeRead, (state, { sentence }) => ({ ...state, notices: state.notices.filter((s) => s !== sentence) })),
  ),
});

export const jobSelectors = jobAdapter.getSelectors();
export const pictureSelectors = pictureAdapter.getSelectors();
