import { ChangeDetectionStrategy, Component, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
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
  imports: [MatButton, MatDialogActions, MatDialogClose, MatDialogContent, MatDialogTitle],
  template: `
    <h2 mat-dialog-title>{{ text.title }}</h2>
    <mat-dialog-content>{{ text.text }}</mat-dialog-content>
    <mat-dialog-actions>
      <button type="button" matButton="outlined" [mat-dialog-close]="false" cdkFocusInitial>Keep it</button>
      <button type="button" matButton="filled" [mat-dialog-close]="true">{{ text.yes }}</button>
    </mat-dialog-actions>
  `,
})
export class Confirm {
  protected readonly text = inject<ConfirmText>(MAT_DIALOG_DATA);
}
