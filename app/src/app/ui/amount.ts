import { ChangeDetectionStrategy, Component, computed, input, output } from '@angular/core';
import { MatSlider, MatSliderThumb } from '@angular/material/slider';

/** A movement: slider with a zero mark and a typed field with its unit. Double-click on the name or Delete in the slider zeroes it. */
@Component({
  selector: 'ap-amount',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatSlider, MatSliderThumb],
  template: `
    <label [attr.for]="fieldId()" (dblclick)="committed.emit(mark())" title="Double-click: no change">{{ label() }}</label>
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
    <span class="field">
      <input
        #field
        type="text"
        inputmode="decimal"
        [id]="fieldId()"
        [value]="text()"
        (input)="typing = true"
        (keydown.enter)="type(field)"
        (keydown.escape)="typing = false; field.value = text(); field.blur()"
        (keydown.arrowup)="nudge($event, 1)"
        (keydown.arrowdown)="nudge($event, -1)"
        (blur)="leave(field)"
      />
      <span aria-hidden="true">{{ unit() }}</span>
    </span>
  `,
  styles: `
    :host {
      display: grid;
      grid-template-columns: 56px minmax(0, 1fr) 84px;
      align-items: center;
      gap: 6px;
      min-height: 38px;
    }
    label {
      font-weight: 600;
      font-size: 13px;
      line-height: 1.15;
    }
    .field {
      display: grid;
      grid-template-columns: 1fr minmax(12px, auto);
      align-items: center;
      gap: 2px;
    }
    input[type='text'] {
      text-align: right;
      min-height: 28px;
      padding: 2px 6px;
      font-variant-numeric: tabular-nums lining-nums;
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
  readonly previewed = output<number>();
  readonly committed = output<number>();

  private readonly index = (Amount.count += 1);
  protected readonly fieldId = computed(() => `amount-${this.index}`);
  protected readonly text = computed(() => this.value().toFixed(this.digits()));

  protected readonly markAt = computed(() => 5 + ((this.mark() - this.min()) / (this.max() - this.min())) * 90);

  protected number(event: Event): number {
    return Number((event.target as HTMLInputElement).value);
  }

  /** Something was typed and is not taken yet. */
  protected typing = false;

  /** A field that is left takes what was typed; one that was only looked at says nothing, whatever it stands for by then. */
  protected leave(field: HTMLInputElement): void {
    if (this.typing) this.type(field);
  }

  protected type(field: HTMLInputElement): void {
    this.typing = false;
    const value = Number(field.value.replace(',', '.').replace(/[°%]/, '').trim());
    if (field.value.trim() === '' || !Number.isFinite(value)) {
      field.value = this.text();
      return;
    }
    const clamped = Math.min(this.max(), Math.max(this.min(), value));
    if (clamped.toFixed(this.digits()) !== this.text() || Math.abs(clamped - this.value()) > 0.51 * 10 ** -this.digits())
      this.committed.emit(clamped);
    field.value = clamped.toFixed(this.digits());
  }

  protected nudge(event: Event, direction: number): void {
    event.preventDefault();
    event.stopPropagation();
    const { shiftKey, altKey } = event as KeyboardEvent;
    const fine = 10 ** -this.digits();
    const step = shiftKey ? fine * 100 : altKey ? fine : fine * 10;
    this.committed.emit(Math.min(this.max(), Math.max(this.min(), Math.round((this.value() + direction * step) * 1e6) / 1e6)));
  }
}
