import { ChangeDetectionStrategy, Component, effect, inject, input, signal, untracked } from '@angular/core';
import { Router } from '@angular/router';
import { Store } from '@ngrx/store';
import { JobClaims } from '../keeper/job-claims';
import { benchActions } from '../state/bench.actions';
import { jobsFeature } from '../state/jobs.reducer';
import { selectPictureEntities } from '../state/selectors';
import { armedAt } from './tools';
import { PictureBench } from './picture-bench';

/**
 * The screen where one picture is corrected, or split as a sheet. Each picture has a bench of its own: with another one everything of the first is gone from the
 * screen and from the hand, so that nothing of it can reach the other.
 */
@Component({
  selector: 'ap-bench',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [PictureBench],
  template: `
    @for (id of open(); track id) {
      <ap-picture-bench />
    }
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class Bench {
  readonly pictureId = input.required<string>();
  /** Whether it is opened as a sheet of prints; the route says so. */
  readonly sheet = input(false);

  private readonly store = inject(Store);
  private readonly router = inject(Router);
  private readonly claims = inject(JobClaims);
  private readonly loaded = this.store.selectSignal(jobsFeature.selectLoaded);
  private readonly entities = this.store.selectSignal(selectPictureEntities);
  /** The picture whose bench is shown; none until it is known who may write its job. */
  protected readonly open = signal<readonly string[]>([]);
  private jobId = '';

  constructor() {
    effect(() => {
      const picture = this.entities()[this.pictureId()];
      if (!this.loaded()) return;
      untracked(() => {
        if (picture) void this.show(picture.id, picture.jobId);
        // removed, here or in another tab: the rest of its job is nearest
        else void this.router.navigate(this.jobId === '' ? ['/'] : ['/job', this.jobId]);
      });
    });
  }

  private async show(id: string, jobId: string): Promise<void> {
    this.jobId = jobId;
    await this.claims.claim(jobId);
    if (this.pictureId() !== id || this.open().includes(id)) return;
    this.store.dispatch(
      benchActions.pictureOpened({ pictureId: id, sheet: this.sheet(), tool: this.sheet() ? null : armedAt('references') }),
    );
    this.open.set([id]);
  }
}
