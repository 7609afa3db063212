import { ChangeDetectionStrategy, Component, computed, inject, signal } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatDialogActions, MatDialogClose, MatDialogContent, MatDialogTitle } from '@angular/material/dialog';
import { MatFormField, MatInput, MatLabel } from '@angular/material/input';
import { MatTooltip } from '@angular/material/tooltip';
import { FIELDS } from '../ui/fields';
import { FilePick } from '../ui/file-pick';
import { saveFile } from '../ui/save-file';
import { WORDS } from '../ui/words';
import { keysFile, pressed, readKeysFile, shownKey, shownPress, whyNot, type KeyAction } from './key-rows';
import { KeyTable } from './key-table';

/** The keys, made from the same table as their handlers, each to be changed here; and the words. One field searches both. */
@Component({
  selector: 'ap-keys-dialog',
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: [FIELDS],
  imports: [
    FilePick,
    MatButton,
    MatDialogActions,
    MatDialogClose,
    MatDialogContent,
    MatDialogTitle,
    MatFormField,
    MatInput,
    MatLabel,
    MatTooltip,
  ],
  templateUrl: './keys-dialog.html',
  styleUrl: './keys-dialog.scss',
})
export class KeysDialog {
  private readonly table = inject(KeyTable);
  protected readonly sought = signal('');
  /** The action that waits for a press. */
  protected readonly waiting = signal<KeyAction | null>(null);
  protected readonly said = signal<string | null>(null);
  protected readonly changed = computed(() => Object.keys(this.table.own()).length);

  protected readonly keys = computed(() =>
    this.table
      .rows()
      .map((row) => ({ ...row, shown: shownKey(row), own: row.action in this.table.own() }))
      .filter((row) => this.holds(`${row.shown} ${row.does}`)),
  );
  protected readonly words = computed(() =>
    Object.entries(WORDS)
      .map(([word, means]) => ({ word, means }))
      .filter(({ word, means }) => this.holds(`${word} ${means}`)),
  );

  protected wait(action: KeyAction): void {
    this.said.set(null);
    this.waiting.set(this.waiting() === action ? null : action);
  }

  /** The next press is the new key; Escape leaves the old one. */
  protected press(event: KeyboardEvent): void {
    const action = this.waiting();
    const key = action && pressed(event);
    if (!action || !key) return;
    event.preventDefault();
    event.stopPropagation();
    if (event.key === 'Escape') {
      this.waiting.set(null);
      return;
    }
    const trouble = whyNot(this.table.rows(), action, key);
    if (trouble) {
      this.said.set(trouble);
      return;
    }
    this.table.change({ ...this.table.own(), [action]: key });
    this.said.set(`${shownPress(key)} it is.`);
    this.waiting.set(null);
  }

  protected first(): void {
    this.table.change({});
    this.waiting.set(null);
    this.said.set('All keys are the first ones again.');
  }

  protected save(): void {
    saveFile(new Blob([keysFile(this.table.own())], { type: 'application/json' }), 'able-plumb-keys.json');
  }

  protected async read([file]: readonly File[]): Promise<void> {
    try {
      this.table.change(readKeysFile(this.table.first(), await (file as File).text()));
      this.said.set('The keys of the file are yours now.');
    } catch (error) {
      this.said.set((error as Error).message);
    }
  }

  private holds(text: string): boolean {
    return text.toLowerCase().includes(this.sought().trim().toLowerCase());
  }
}
