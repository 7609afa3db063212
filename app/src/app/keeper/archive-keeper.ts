import { inject, Injectable } from '@angular/core';
import { Store } from '@ngrx/store';
import { openJobArchive, writeJobArchive } from '@able-plumb/codecs';
import { shelfSentence } from '../shelf/shelf-sentence';
import { jobsFeature } from '../state/jobs.reducer';
import type { Job, Picture } from '../state/model';
import { shelfActions } from '../state/shelf.actions';
import { JobKeeper } from './job-keeper';
import { LensKeeper } from './lens-keeper';

/** Jobs as files: everything of a job in one, and back. */
@Injectable({ providedIn: 'root' })
export class ArchiveKeeper {
  private readonly store = inject(Store);
  private readonly jobs = inject(JobKeeper);
  private readonly lenses = inject(LensKeeper);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);

  /**
   * A job as one file: originals, corrections, and the deliveries and lens profiles that they speak of.
   * @throws Error naming a picture whose file is lost
   */
  async save(job: Job): Promise<Blob> {
    const chosen = await this.jobs.chosen(job.pictureIds);
    const pictures = await Promise.all(
      chosen.map(async ({ picture, correction }) => {
        const file = await this.jobs.original(picture.id);
        if (!file) throw new Error(`The file of ${picture.name} is no longer in this browser: the job cannot be saved whole.`);
        return { name: picture.name, file, sha256: picture.sha256, correction, set: picture.set };
      }),
    );
    const [used, profiles] = [
      chosen.flatMap(({ correction }) => correction.deliveries.map((d) => d.id)),
      chosen.map((c) => c.correction.lens.profile),
    ];
    return writeJobArchive({
      name: job.name,
      pictures,
      deliveries: this.settings().deliveries.filter((d) => used.includes(d.id)),
      lenses: this.lenses.profiles().filter((p) => profiles.includes(p.id)),
    });
  }

  /**
   * Takes a job file in. It is checked whole before anything is kept; when the browser has no room for it, what was kept is removed again.
   * @throws JobFileError, PictureFileError
   */
  async open(file: Blob, onProgress: (text: string, share: number) => void): Promise<Job> {
    const archive = await openJobArchive(file, (share) => onProgress('Checking the job file', share));
    const { manifest, corrections } = archive;
    const job = await this.jobs.newJob(manifest.name);
    // a set is of this job alone, even where the same file is opened twice
    const sets = new Map<string, string>();
    // what shares an original in the file shares it here
    const brought = new Map<string, Picture>();
    const setOf = (set: string): string => sets.get(set) ?? sets.set(set, crypto.randomUUID()).get(set) ?? set;
    try {
      for (const [i, row] of manifest.pictures.entries()) {
        const present = corrections[i];
        if (!present) continue;
        const set = row.set === undefined ? undefined : setOf(row.set);
        const owner = brought.get(row.file);
        if (owner) await this.jobs.addCopy(owner, row.name, present, { set });
        else brought.set(row.file, await this.jobs.addFile(job.id, row.name, await archive.picture(i), { present, set }));
        onProgress('Opening the job', (i + 1) / manifest.pictures.length);
      }
    } catch (error) {
      await this.jobs.removeJob(job.id);
      throw error instanceof DOMException ? new Error(shelfSentence(error)) : error;
    }
    const known = new Set(this.lenses.profiles().map((p) => p.id));
    for (const profile of archive.lenses) if (!known.has(profile.id)) await this.lenses.save(profile);
    const { deliveries } = this.settings();
    const more = manifest.deliveries.filter((d) => !deliveries.some((own) => own.id === d.id));
    if (more.length > 0) this.store.dispatch(shelfActions.settingsChanged({ change: { deliveries: [...deliveries, ...more] } }));
    return job;
  }
}
