import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MAT_DIALOG_DATA, MatDialogActions, MatDialogClose, MatDialogContent, MatDialogTitle } from '@angular/material/dialog';

/** What a confirmation asks. */
export interface ConfirmText {
  readonly title: string;
  readonly text: string;
  readonly yes: string;
}

/** Asks before something that cannot be undone; closes with true when confirmed. */
@Component({
  selector: 'ap-confirm',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatDialogActions, MatDialogClose, MatDialogContent, MatDialogTitle],
  template: `
    <h2 mat-dialog-title>{{ text.title }}</h2>
    <mat-dialog-content>{{ text.text }}</mat-dialog-content>
    <mat-dialog-actions>
      <button type="button" [mat-dialog-close]="false" cdkFocusInitial>Keep it</button>
      <button type="button" class="strong" [mat-dialog-close]="true">{{ text.yes }}</button>
    </mat-dialog-actions>
  `,
  styles: `
    button {
      min-height: 36px;
      padding: 0 16px;
      border: 1px solid var(--line-strong);
      border-radius: 5px;
      background: none;
      color: inherit;
      font: inherit;
      cursor: pointer;
      margin-left: 8px;
    }
    .strong {
      background: var(--ink);
      color: var(--plaster);
      font-weight: 650;
    }
  `,
})
export class Confirm {
  protected readonly text = inject<ConfirmText>(MAT_DIALOG_DATA);
}
