import { createActionGroup, emptyProps, props } from '@ngrx/store';
import type { LensProfile } from '@able-plumb/core';
import type { History, Job, Picture, Settings } from './model';

/** What comes from the shelf and what changes jobs and pictures. */
export const shelfActions = createActionGroup({
  source: 'Shelf',
  events: {
    Loaded: props<{ jobs: readonly Job[]; pictures: readonly Picture[]; profiles: readonly LensProfile[]; settings: Settings | null }>(),
    'Job Saved': props<{ job: Job }>(),
    'Job Removed': props<{ jobId: string }>(),
    'Pictures Added': props<{ jobId: string; pictures: readonly Picture[] }>(),
    'Picture Removed': props<{ jobId: string; pictureId: string }>(),
    'Histories Loaded': props<{ histories: Readonly<Record<string, History>> }>(),
    'Profile Saved': props<{ profile: LensProfile }>(),
    'Profile Removed': props<{ id: string }>(),
    'Settings Changed': props<{ change: Partial<Settings> }>(),
    'Saving Began': emptyProps(),
    'Saving Ended': emptyProps(),
    'Saving Failed': props<{ message: string }>(),
  },
});
