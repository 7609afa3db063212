import { createSelector } from '@ngrx/store';
import { benchFeature } from './bench.reducer';
import { correctionsFeature } from './corrections.reducer';
import { profilesFeature, profileSelectors } from './profiles.reducer';
import { jobsFeature, jobSelectors, pictureSelectors } from './jobs.reducer';

export const selectJobs = createSelector(jobsFeature.selectJobs, jobSelectors.selectAll);
export const selectJobEntities = createSelector(jobsFeature.selectJobs, jobSelectors.selectEntities);
export const selectProfiles = createSelector(profilesFeature.selectProfiles, profileSelectors.selectAll);
export const selectPictureEntities = createSelector(jobsFeature.selectPictures, pictureSelectors.selectEntities);

/** The picture on the bench, its job and its neighbours. */
export const selectOpenPicture = createSelector(benchFeature.selectPictureId, selectPictureEntities, (id, pictures) =>
  id ? (pictures[id] ?? null) : null,
);
export const selectOpenJob = createSelector(selectOpenPicture, selectJobEntities, (picture, jobs) =>
  picture ? (jobs[picture.jobId] ?? null) : null,
);

/** The open picture's history; null until it is loaded. */
export const selectOpenHistory = createSelector(benchFeature.selectPictureId, correctionsFeature.selectHistories, (id, histories) =>
  id ? (histories[id] ?? null) : null,
);
/** The correction that is committed. */
export const selectCorrection = createSelector(selectOpenHistory, (history) => history?.present ?? null);
export const selectCanUndo = createSelector(selectOpenHistory, (history) => (history?.past.length ?? 0) > 0);
export const selectCanRedo = createSelector(selectOpenHistory, (history) => (history?.future.length ?? 0) > 0);
