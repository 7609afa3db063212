import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { MatSlider, MatSliderThumb } from '@angular/material/slider';

/** A movement: slider with a zero mark and a typed field with its unit. Double-click on the name or Delete in the slider zeroes it. */
@Component({
  selector: 'ap-amount',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatSlider, MatSliderThumb],
  template: `
    <div class="head">
      <label [attr.for]="fieldId()" (dblclick)="committed.emit(0)" title="Double-click: zero">{{ label() }}</label>
      <span class="field">
        <input
          #field
          type="text"
          inputmode="decimal"
          [id]="fieldId()"
          [value]="text()"
          (keydown.enter)="type(field)"
          (keydown.escape)="field.value = text(); field.blur()"
          (keydown.arrowup)="nudge($event, 1)"
          (keydown.arrowdown)="nudge($event, -1)"
          (blur)="type(field)"
        />
        <span aria-hidden="true">{{ unit() }}</span>
      </span>
    </div>
    <div class="track">
      <span class="zero" aria-hidden="true"></span>
      <mat-slider [min]="min()" [max]="max()" [step]="step()">
        <input
          matSliderThumb
          [value]="value()"
          [attr.aria-label]="label() + ' slider'"
          (input)="previewed.emit(number($event))"
          (change)="committed.emit(number($event))"
          (dblclick)="committed.emit(0)"
          (keydown.delete)="committed.emit(0)"
        />
      </mat-slider>
    </div>
  `,
  styles: `
    :host {
      display: block;
    }
    .head {
      display: flex;
      justify-content: space-between;
      align-items: baseline;
    }
    label {
      font-weight: 600;
    }
    .field {
      display: inline-flex;
      align-items: baseline;
      gap: 2px;
    }
    input[type='text'] {
      width: 74px;
      text-align: right;
      font-variant-numeric: tabular-nums lining-nums;
    }
    .track {
      position: relative;
      margin: -4px 0 -6px;
    }
    mat-slider {
      width: calc(100% - 8px);
      margin: 0 4px;
    }
    .zero {
      position: absolute;
      left: 50%;
      top: 14px;
      width: 1px;
      height: 20px;
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
  readonly previewed = output<number>();
  readonly committed = output<number>();

  private readonly index = (Amount.count += 1);
  protected readonly fieldId = computed(() => `amount-${this.index}`);
  protected readonly text = computed(() => this.value().toFixed(2));

  protected number(event: Event): number {
    return Number((event.target as HTMLInputElement).value);
  }

  protected type(field: HTMLInputElement): void {
    const value = Number(field.value.replace(',', '.').replace('°', '').trim());
    if (field.value.trim() === '' || !Number.isFinite(value)) {
      field.value = this.text();
      return;
    }
    const clamped = Math.min(this.max(), Math.max(this.min(), value));
    if (clamped.toFixed(2) !== this.text() || Math.abs(clamped - this.value()) > 0.0051) this.committed.emit(clamped);
    field.value = clamped.toFixed(2);
  }

  protected nudge(event: Event, direction: number): void {
    event.preventDefault();
    event.stopPropagation();
    const { shiftKey, altKey } = event as KeyboardEvent;
    const step = shiftKey ? 1 : altKey ? 0.01 : 0.1;
    this.committed.emit(Math.min(this.max(), Math.max(this.min(), Math.round((this.value() + direction * step) * 1e6) / 1e6)));
  }
}
