import { ChangeDetectionStrategy, Component } from '@angular/core';

/** The name mark: a bob on its string, and the name. */
@Component({
  selector: 'ap-name-mark',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    <svg width="20" height="30" viewBox="0 0 20 30" aria-hidden="true">
      <path d="M10 0v9" stroke="currentColor" stroke-width="1.4" />
      <path d="M4 10h12" stroke="currentColor" stroke-width="2.2" stroke-linecap="round" />
      <path d="M5 12h10l-5 16z" fill="var(--brass)" />
    </svg>
    <span>Able Plumb</span>
  `,
  styles: `
    :host {
      display: inline-flex;
      align-items: center;
      gap: 10px;
      font-weight: 680;
      font-size: 16px;
      white-space: nowrap;
    }
  `,
})
export class NameMark {}
