import { afterNextRender, ChangeDetectionStrategy, Component, effect, inject, Injector, input, output } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { MatError, MatFormField, MatInput, MatSuffix } from '@angular/material/input';
import { FIELDS } from './fields';
import { ReadsNumber } from './reads-number';

/** A number with its unit; what it must be stands under it when it is not. */
@Component({
  selector: 'ap-number',
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: [FIELDS],
  imports: [MatError, MatFormField, MatInput, MatSuffix, ReactiveFormsModule, ReadsNumber],
  template: `
    <mat-form-field class="number">
      <input
        matInput
        apNumber
        [formControl]="control"
        [least]="least()"
        [most]="most()"
        [digits]="digits()"
        [optional]="empty() !== ''"
        [placeholder]="empty()"
        [attr.aria-label]="label()"
      />
      @if (unit() && !(empty() && value() === null)) {
        <span matTextSuffix aria-hidden="true">{{ unit() }}</span>
      }
      <mat-error>{{ control.getError('number') }}</mat-error>
    </mat-form-field>
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
  `,
})
export class NumberField {
  readonly label = input.required<string>();
  readonly value = input.required<number | null>();
  readonly least = input(-Infinity);
  readonly most = input(Infinity);
  readonly digits = input(0);
  readonly unit = input('');
  /** What no number means, where that is an answer; it stands in the empty field. */
  readonly empty = input('');
  /** A number that was typed or stepped to, within the bounds and not the one that stood there. */
  readonly taken = output<number>();

  /** The number was taken out of a field that may be empty. */
  readonly cleared = output();

  protected readonly control = new FormControl<number | null>(null);
  private readonly injector = inject(Injector);

  constructor() {
    effect(() => this.control.setValue(this.value(), { emitEvent: false }));
    this.control.valueChanges.pipe(takeUntilDestroyed()).subscribe((value) => {
      if (value === this.value() || this.control.invalid) return;
      if (value === null) this.cleared.emit();
      else this.taken.emit(value);
      // what was made of it may differ
      afterNextRender(() => this.control.value === this.value() || this.control.setValue(this.value(), { emitEvent: false }), {
        injector: this.injector,
      });
    });
  }
}
