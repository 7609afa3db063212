import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatIconButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import { Store } from '@ngrx/store';
import { jobsFeature } from './state/jobs.reducer';
import { shelfActions } from './state/shelf.actions';
import { Icon } from './ui/icon';

/** Light or dim, on every screen. */
@Component({
  selector: 'ap-theme-button',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatIconButton, MatTooltip],
  template: `
    <button type="button" matIconButton (click)="toggle()" aria-label="Light or dim theme" matTooltip="Light or dim theme">
      <ap-icon name="theme" />
    </button>
  `,
})
export class ThemeButton {
  private readonly store = inject(Store);
  private readonly settings = this.store.selectSignal(jobsFeature.selectSettings);

  protected toggle(): void {
    this.store.dispatch(shelfActions.settingsChanged({ change: { theme: this.settings().theme === 'light' ? 'dim' : 'light' } }));
  }
}
