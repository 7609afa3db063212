import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { toSignal } from '@angular/core/rxjs-interop';
import { SwUpdate } from '@angular/service-worker';
import { Store } from '@ngrx/store';
import { filter, map } from 'rxjs';
import { JobClaims } from './keeper/job-claims';
import { jobsFeature } from './state/jobs.reducer';
import { shelfActions } from './state/shelf.actions';

/** What a person has to know of the shelf and of other tabs, on every screen until it is read. */
@Component({
  selector: 'ap-notices',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButton],
  template: `
    @if (claims.elsewhere()) {
      <div role="status">
        <p>This job is being worked on in another tab. What is done there is shown here.</p>
        <button type="button" matButton="outlined" (click)="claims.takeOver()">Work on it here</button>
      </div>
    }
    @if (newer()) {
      <div role="status">
        <p>A new version of Able Plumb is ready. What you are doing stays as it is until you load it.</p>
        <button type="button" matButton="outlined" (click)="loadNewer()">Load it</button>
      </div>
    }
    @for (sentence of notices(); track sentence) {
      <div role="alert">
        <p>{{ sentence }}</p>
        <button type="button" matButton="outlined" (click)="read(sentence)">Understood</button>
      </div>
    }
  `,
  styles: `
    :host {
      position: fixed;
      left: 50%;
      bottom: 84px;
      transform: translateX(-50%);
      display: grid;
      gap: 8px;
      width: min(560px, 92vw);
      z-index: 20;
    }
    div {
      display: grid;
      grid-template-columns: 1fr auto;
      align-items: center;
      gap: 16px;
      padding: 10px 14px;
      background: var(--paper);
      color: var(--ink);
      border: 1px solid var(--ink);
      border-radius: 5px;
      box-shadow: 0 4px 18px rgb(0 0 0 / 0.22);
    }
    p {
      margin: 0;
    }
  `,
})
export class Notices {
  protected readonly claims = inject(JobClaims);
  private readonly store = inject(Store);
  private readonly updates = inject(SwUpdate);
  /** A newer version is there; it waits until the person wants it. */
  protected readonly newer = toSignal(
    this.updates.versionUpdates.pipe(
      filter((event) => event.type === 'VERSION_READY'),
      map(() => true),
    ),
    { initialValue: false },
  );
  protected readonly notices = this.store.selectSignal(jobsFeature.selectNotices);

  protected loadNewer(): void {
    void this.updates.activateUpdate().then(() => location.reload());
  }

  protected read(sentence: string): void {
    this.store.dispatch(shelfActions.noticeRead({ sentence }));
  }
}
