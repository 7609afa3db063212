import { inject, Injectable } from '@angular/core';
import { Router } from '@angular/router';
import { JobKeeper } from '../keeper/job-keeper';
import { Dialogs } from '../ui/dialogs';
import type { Scanned } from './scan-dialog';

/** Scans a page into a job, and goes on to its prints. */
@Injectable({ providedIn: 'root' })
export class Scanning {
  private readonly dialogs = inject(Dialogs);
  private readonly keeper = inject(JobKeeper);
  private readonly router = inject(Router);

  /**
   * @param jobId the job that it goes into; a new one of that name where it is null
   * @returns what was refused, in sentences; null where nothing was scanned
   */
  async into(jobId: string | null, newName: string): Promise<readonly string[] | null> {
    const scanned = await this.dialogs.open<Scanned>(() => import('./scan-dialog').then(({ ScanDialog }) => ScanDialog), {
      width: '460px',
      maxWidth: '94vw',
      disableClose: true,
    });
    if (!scanned) return null;
    const id = jobId ?? (await this.keeper.newJob(newName)).id;
    const from = this.router.url;
    const { added, refused } = await this.keeper.addFiles(id, [scanned]);
    const [picture] = added;
    // whoever went on meanwhile stays there
    if (picture && this.router.url === from) await this.router.navigate(['/sheet', picture.id]);
    if (!picture && jobId === null) await this.keeper.removeJob(id);
    return refused;
  }
}
