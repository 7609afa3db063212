import { inject, Injectable } from '@angular/core';
import { MatDialog } from '@angular/material/dialog';
import { Router } from '@angular/router';
import { firstValueFrom } from 'rxjs';
import { JobKeeper } from '../keeper/job-keeper';
import type { ScanDialog, Scanned } from './scan-dialog';

/** Scans a page into a job, and goes on to its prints. */
@Injectable({ providedIn: 'root' })
export class Scanning {
  private readonly dialog = inject(MatDialog);
  private readonly keeper = inject(JobKeeper);
  private readonly router = inject(Router);

  /**
   * @param jobId the job that it goes into; a new one of that name where it is null
   * @returns what was refused, in sentences; null where nothing was scanned
   */
  async into(jobId: string | null, newName: string): Promise<readonly string[] | null> {
    const { ScanDialog: dialog } = await import('./scan-dialog');
    const asked = this.dialog.open<ScanDialog, undefined, Scanned>(dialog, { width: '460px', maxWidth: '94vw', disableClose: true });
    const scanned = await firstValueFrom(asked.afterClosed());
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
