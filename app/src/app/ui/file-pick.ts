import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import { Icon } from './icon';
import type { IconName } from '../theme/icons';

/** Endings and types of pictures that can be opened. */
export const PICTURES = '.jpg,.jpeg,.png,.tif,.tiff,.webp,.avif,.jxl,image/jpeg,image/png,image/tiff,image/webp,image/avif,image/jxl';

/** A button that asks for files. */
@Component({
  selector: 'ap-file-pick',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, MatTooltip],
  template: `
    <button
      type="button"
      [matButton]="look()"
      [disabled]="disabled()"
      [matTooltip]="hint()"
      [attr.aria-label]="name() || null"
      (click)="field.click()"
    >
      @if (icon(); as i) {
        <ap-icon [name]="i" [size]="18" />
      }
      {{ label() }}
    </button>
    <input #field type="file" tabindex="-1" aria-hidden="true" [multiple]="multiple()" [accept]="accept()" (change)="pick(field)" />
  `,
  styles: `
    :host {
      display: inline-flex;
      position: relative;
    }
    button {
      width: 100%;
    }
    input {
      position: absolute;
      width: 1px;
      height: 1px;
      opacity: 0;
      pointer-events: none;
    }
  `,
})
export class FilePick {
  readonly label = input.required<string>();
  /** The accessible name, where the label alone does not say it. */
  readonly name = input('');
  readonly hint = input('');
  readonly accept = input(PICTURES);
  readonly multiple = input(false);
  readonly disabled = input(false);
  readonly look = input<'text' | 'outlined' | 'filled'>('text');
  readonly icon = input<IconName | null>(null);
  /** What was picked; the same files can be picked again. */
  readonly picked = output<readonly File[]>();

  protected pick(field: HTMLInputElement): void {
    const files = Array.from(field.files ?? []);
    field.value = '';
    if (files.length > 0) this.picked.emit(files);
  }
}
