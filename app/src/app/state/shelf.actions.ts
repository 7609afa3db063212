import { createActionGroup, props } from '@ngrx/store';
import type { LensProfile } from '@able-plumb/core';
import type { History, Job, Picture, Settings } from './model';

/** What comes from the shelf, from other tabs, and what changes jobs and pictures. */
export const shelfActions = createActionGroup({
  source: 'Shelf',
  events: {
    Loaded: props<{
      jobs: readonly Job[];
      pictures: readonly Picture[];
      profiles: readonly LensProfile[];
      settings: Partial<Settings> | null;
    }>(),
    'Job Saved': props<{ job: Job }>(),
    'Job Removed': props<{ jobId: string }>(),
    /** A job as the shelf has it: its pictures replace those that were known of it. */
    'Job Followed': props<{ job: Job; pictures: readonly Picture[] }>(),
    /** Whether another tab writes a job. */
    'Job Elsewhere': props<{ jobId: string; elsewhere: boolean }>(),
    'Pictures Added': props<{ jobId: string; pictures: readonly Picture[] }>(),
    'Picture Removed': props<{ jobId: string; pictureId: string }>(),
    'Histories Loaded': props<{ histories: Readonly<Record<string, History>> }>(),
    /** A history as the shelf has it, whatever was done here: another tab was first. */
    'History Replaced': props<{ pictureId: string; history: History }>(),
    'Profile Saved': props<{ profile: LensProfile }>(),
    'Profile Removed': props<{ id: string }>(),
    'Profiles Followed': props<{ profiles: readonly LensProfile[] }>(),
    'Settings Changed': props<{ change: Partial<Settings> }>(),
    'Settings Followed': props<{ settings: Partial<Settings> }>(),
    /** A document lies on the shelf as it is seen. */
    Saved: props<{ document: string }>(),
    'Saving Failed': props<{ document: string; message: string }>(),
    /** Something that a person has to know, until it is read. */
    Noticed: props<{ sentence: string }>(),
    'Notice Read': props<{ sentence: string }>(),
  },
});
