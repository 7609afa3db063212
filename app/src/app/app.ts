import { ChangeDetectionStrategy, Component, effect, inject } from '@angular/core';
import { RouterOutlet } from '@angular/router';
import { Store } from '@ngrx/store';
import { Shelf, shelfSentence } from './shelf/shelf';
import { jobsFeature } from './state/jobs.reducer';
import { shelfActions } from './state/shelf.actions';

/** The application: loads the shelf and sets the theme. */
@Component({
  selector: 'ap-root',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [RouterOutlet],
  template: `<router-outlet />`,
})
export class App {
  private readonly store = inject(Store);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);

  constructor() {
    inject(Shelf)
      .load()
      .then(
        (loaded) => this.store.dispatch(shelfActions.loaded(loaded)),
        (error: unknown) => this.store.dispatch(shelfActions.savingFailed({ message: shelfSentence(error) })),
      );
    effect(() => document.documentElement.setAttribute('data-theme', this.settings().theme));
  }
}
