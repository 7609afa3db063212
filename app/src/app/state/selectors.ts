import { createSelector } from '@ngrx/store';
import { benchFeature } from './bench.reducer';
import { profilesFeature, profileSelectors } from './profiles.reducer';
import { jobsFeature, jobSelectors, pictureSelectors } from './jobs.reducer';

export const selectJobs = createSelector(jobsFeature.selectJobs, jobSelectors.selectAll);
export const selectJobEntities = createSelector(jobsFeature.selectJobs, jobSelectors.selectEntities);
export const selectProfiles = createSelector(profilesFeature.selectProfiles, profileSelectors.selectAll);
export const selectPictureEntities = createSelector(jobsFeature.selectPictures, pictureSelectors.selectEntities);

/** The picture that is on the bench, or was last; null before the first. */
export const selectOpenPicture = createSelector(benchFeature.selectPictureId, selectPictureEntities, (id, pictures) =>
  id ? (pictures[id] ?? null) : null,
);
