import { ChangeDetectionStrategy, Component, DOCUMENT, effect, inject } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { Store } from '@ngrx/store';
import { DocumentKeeper } from './keeper/document-keeper';
import { jobsFeature } from './state/jobs.reducer';
import { savingFeature } from './state/saving.reducer';
import { Notices } from './notices';

/** The application: loads the shelf, sets the theme, and leaves nothing unwritten when it goes. */
@Component({
  selector: 'ap-root',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Notices, RouterOutlet],
  template: `<router-outlet /><ap-notices />`,
  host: {
    '(window:pagehide)': 'keeper.flush(true)',
    '(document:visibilitychange)': 'hidden()',
    '(window:beforeunload)': 'leave($event)',
  },
})
export class App {
  private readonly store = inject(Store);
  private readonly document = inject(DOCUMENT);
  protected readonly keeper = inject(DocumentKeeper);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);
  private readonly saveError = this.store.selectSignal(savingFeature.selectSaveError);

  constructor() {
    void this.keeper.load();
    effect(() => this.document.documentElement.setAttribute('data-theme', this.settings().theme));
  }

  protected hidden(): void {
    if (this.document.visibilityState === 'hidden') void this.keeper.flush();
  }

  /** What could not be saved would be lost: the browser asks first. */
  protected leave(event: Event): void {
    if (this.saveError() !== null) event.preventDefault();
  }
}
