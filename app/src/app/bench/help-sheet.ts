import { ChangeDetectionStrategy, Component } from '@angular/core';
import { MatDialogClose, MatDialogContent, MatDialogTitle } from '@angular/material/dialog';
import { KEYS } from './keys';

/** The list of keys, made from the same table as their handlers. */
@Component({
  selector: 'ap-help-sheet',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatDialogClose, MatDialogContent, MatDialogTitle],
  template: `
    <h2 mat-dialog-title>Keys</h2>
    <mat-dialog-content>
      <dl>
        @for (row of keys; track row.action) {
          <div>
            <dt>
              <kbd>{{ row.shown }}</kbd>
            </dt>
            <dd>{{ row.does }}</dd>
          </div>
        }
      </dl>
      <button type="button" mat-dialog-close>Close</button>
    </mat-dialog-content>
  `,
  styles: `
    dl {
      columns: 2;
      column-gap: 28px;
      margin: 0;
    }
    dl div {
      display: grid;
      grid-template-columns: 112px 1fr;
      gap: 8px;
      padding: 5px 0;
      border-bottom: 1px solid var(--line);
      break-inside: avoid;
      font-size: 13.5px;
    }
    dt {
      text-align: right;
    }
    dd {
      margin: 0;
    }
    kbd {
      font: 600 12.5px var(--font);
      padding: 1px 7px;
      border: 1px solid var(--line-strong);
      border-radius: 4px;
      background: var(--paper);
      white-space: nowrap;
    }
    button {
      margin-top: 14px;
      min-height: 34px;
      padding: 0 16px;
      border: 1px solid var(--line-strong);
      border-radius: 5px;
      background: none;
      color: inherit;
      font: inherit;
      cursor: pointer;
    }
  `,
})
export class HelpSheet {
  protected readonly keys = KEYS;
}
