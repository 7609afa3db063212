import { computed, inject, Injectable } from '@angular/core';
import { Router } from '@angular/router';
import { PictureSession } from './session/picture-session';

/** From picture to picture of the job. */
@Injectable()
export class Paging {
  private readonly router = inject(Router);
  private readonly session = inject(PictureSession);
  /** The picture that was asked for last: until it is there, the next one is counted from it. */
  private asked: string | null = null;

  /** Where the opened picture stands in its job. */
  readonly place = computed(() => {
    const job = this.session.job();
    const index = job ? job.pictureIds.indexOf(this.session.id) : -1;
    return job && index >= 0
      ? { index, of: job.pictureIds.length, previous: job.pictureIds[index - 1], next: job.pictureIds[index + 1] }
      : null;
  });

  go(id: string | undefined): void {
    if (!id) return;
    this.asked = id;
    void this.router.navigate(['/bench', id]).then((there) => {
      // refused, and nothing else was asked for since
      if (!there && this.asked === id) this.asked = null;
    });
  }

  /** One picture on or back, however quickly one is asked for after the other. */
  page(by: 1 | -1): void {
    const ids = this.session.job()?.pictureIds ?? [];
    this.go(ids[ids.indexOf(this.asked ?? this.session.id) + by]);
  }
}
