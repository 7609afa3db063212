import { ChangeDetectionStrategy, Component, computed, effect, input, output } from '@angular/core';
import { takeUntilDestroyed } from '@angular/core/rxjs-interop';
import { FormControl, ReactiveFormsModule } from '@angular/forms';
import { MatFormField, MatInput, MatSuffix } from '@angular/material/input';
import { MatSlider, MatSliderThumb } from '@angular/material/slider';
import { MatTooltip } from '@angular/material/tooltip';
import { FIELDS } from './fields';
import { ReadsNumber } from './reads-number';

/** A movement: slider with a zero mark and a typed field with its unit. Double-click on the name or Delete in the slider zeroes it. */
@Component({
  selector: 'ap-amount',
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: [FIELDS],
  imports: [MatFormField, MatInput, MatSlider, MatSliderThumb, MatSuffix, MatTooltip, ReactiveFormsModule, ReadsNumber],
  template: `
    <label
      [attr.for]="fieldId"
      (dblclick)="committed.emit(mark())"
      [matTooltip]="(hint() ? hint() + ' ' : '') + 'Double-click: no change'"
      >{{ label() }}</label
    >
    <div class="track">
      <span class="zero" [style.left.%]="markAt()" aria-hidden="true"></span>
      <mat-slider [min]="min()" [max]="max()" [step]="step()">
        <input
          matSliderThumb
          [value]="value()"
          [attr.aria-label]="label() + ' slider'"
          (input)="previewed.emit(number($event))"
          (change)="committed.emit(number($event))"
          (dblclick)="committed.emit(mark())"
          (keydown.delete)="committed.emit(mark())"
        />
      </mat-slider>
    </div>
    <mat-form-field class="number">
      <input matInput apNumber fixed [id]="fieldId" [formControl]="control" [least]="min()" [most]="max()" [digits]="digits()" />
      <span matTextSuffix aria-hidden="true">{{ unit() }}</span>
    </mat-form-field>
    @if (control.invalid) {
      <p class="error" role="alert">{{ control.getError('number') }}</p>
    }
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 56px minmax(0, 1fr) 84px;
      align-items: center;
      gap: 6px;
      min-height: 38px;
      isolation: isolate; // while one moves the others are not drawn again
    }
    label {
      font-weight: 600;
      font-size: 13px;
      line-height: 1.15;
    }
    .error {
      grid-column: 1 / -1;
      margin: 0;
      text-align: right;
      font-size: 12px;
      color: var(--brick-text);
    }
    .track {
      position: relative;
      height: 38px;
      display: grid;
      align-items: center;
    }
    mat-slider {
      width: calc(100% - 16px);
      min-width: 0;
      margin: 0 8px;
      top: -5px;
    }
    .zero {
      position: absolute;
      top: 9px;
      width: 1px;
      height: 20px;
      margin-left: 0;
      background: var(--ink-soft);
    }
  `,
})
export class Amount {
  private static count = 0;
  readonly label = input.required<string>();
  readonly value = input.required<number>();
  readonly min = input.required<number>();
  readonly max = input.required<number>();
  readonly step = input(0.01);
  readonly unit = input('°');
  /** The value that changes nothing: marked on the track, and what a double-click sets. */
  readonly mark = input(0);
  readonly digits = input(2);
  /** What it is, in a sentence. */
  readonly hint = input('');
  readonly previewed = output<number>();
  readonly committed = output<number>();

  protected readonly fieldId = `amount-${(Amount.count += 1)}`;
  protected readonly control = new FormControl<number | null>(null);

  protected readonly markAt = computed(() => 5 + ((this.mark() - this.min()) / (this.max() - this.min())) * 90);

  constructor() {
    effect(() => this.control.setValue(this.shown(), { emitEvent: false }));
    this.control.valueChanges.pipe(takeUntilDestroyed()).subscribe((value) => {
      if (value !== null && value !== this.shown()) this.committed.emit(value);
    });
  }

  /** What the field shows of the value. */
  private readonly shown = computed(() => Number(this.value().toFixed(this.digits())));

  protected number(event: Event): number {
    return Number((event.target as HTMLInputElement).value);
  }
}
