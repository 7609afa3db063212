import { afterNextRender, ChangeDetectionStrategy, Component, effect, ElementRef, inject, Injector, input, output } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { MatError, MatFormField, MatInput } from '@angular/material/input';
import { FIELDS } from './fields';

/** A line of text, taken by Enter or by leaving the field; what is wrong with it stands under it. */
@Component({
  selector: 'ap-text',
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: [FIELDS],
  imports: [MatError, MatFormField, MatInput, ReactiveFormsModule],
  template: `
    <mat-form-field>
      <input
        matInput
        type="text"
        autocomplete="off"
        [formControl]="control"
        [attr.aria-label]="label()"
        [attr.maxlength]="longest()"
        [placeholder]="placeholder()"
        (keydown.escape)="giveUp($event)"
        (keydown.enter)="enter($event)"
      />
      <mat-error>{{ control.getError('text') }}</mat-error>
    </mat-form-field>
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
  `,
})
export class TextField {
  readonly label = input.required<string>();
  readonly value = input('');
  readonly placeholder = input('');
  readonly longest = input(200);
  /** A sentence on what is wrong with a text; null for none. */
  readonly check = input<(text: string) => string | null>(() => null);
  /** Takes the focus as soon as it is shown. */
  readonly first = input(false);
  /** A text that is right and was not there before. */
  readonly taken = output<string>();
  /** Enter was pressed on a text that is right. */
  readonly entered = output<string>();
  /** Escape was pressed with nothing to take back. */
  readonly left = output();

  readonly control = new FormControl('', {
    nonNullable: true,
    updateOn: 'blur',
    validators: (control) => {
      const trouble = this.check()(control.value as string);
      return trouble === null ? null : { text: trouble };
    },
  });
  private readonly host = inject<ElementRef<HTMLElement>>(ElementRef).nativeElement;
  private readonly injector = inject(Injector);

  constructor() {
    effect(() => this.control.setValue(this.value(), { emitEvent: false }));
    this.control.valueChanges.pipe(takeUntilDestroyed()).subscribe((text) => this.take(text));
    afterNextRender(() => {
      if (this.first()) this.host.querySelector('input')?.focus();
    });
  }

  protected enter(event: Event): void {
    const { value } = this.host.querySelector('input') as HTMLInputElement;
    this.control.markAsTouched();
    if (value !== this.control.value) this.control.setValue(value);
    if (this.control.valid) this.entered.emit(value);
    else event.stopPropagation();
  }

  protected giveUp(event: Event): void {
    const field = event.target as HTMLInputElement;
    if (field.value === this.value()) {
      this.left.emit();
      return;
    }
    event.preventDefault();
    event.stopPropagation();
    this.control.setValue(this.value(), { emitEvent: false });
  }

  private take(text: string): void {
    if (!this.control.valid || text === this.value()) return;
    this.taken.emit(text);
    // what was made of it may differ
    afterNextRender(() => this.control.value === this.value() || this.control.setValue(this.value(), { emitEvent: false }), {
      injector: this.injector,
    });
  }
}
