import { booleanAttribute, Directive, ElementRef, forwardRef, inject, input } from '@angular/core';
import { NG_VALIDATORS, NG_VALUE_ACCESSOR, type ControlValueAccessor, type ValidationErrors, type Validator } from '@angular/forms';

/**
 * Reads a number out of a text field, with comma or point and with its unit or without. Enter or leaving the field takes it, Escape
 * takes back what was typed, the up and down keys step (Shift ten times, Alt a tenth). The control holds the number; null while what
 * stands there is none. The error `number` is a few words: what it must be.
 */
@Directive({
  selector: 'input[apNumber]',
  host: {
    type: 'text',
    autocomplete: 'off',
    '[attr.inputmode]': 'digits() === 0 ? "numeric" : "decimal"',
    '[disabled]': 'locked',
    '(input)': 'typing = true',
    '(change)': 'take()',
    '(blur)': 'leave()',
    '(keydown.enter)': 'enter($event)',
    '(keydown.escape)': 'giveUp($event)',
    '(keydown)': 'step($event)',
  },
  providers: [
    { provide: NG_VALUE_ACCESSOR, useExisting: forwardRef(() => ReadsNumber), multi: true },
    { provide: NG_VALIDATORS, useExisting: forwardRef(() => ReadsNumber), multi: true },
  ],
})
export class ReadsNumber implements ControlValueAccessor, Validator {
  readonly least = input(-Infinity);
  readonly most = input(Infinity);
  /** Decimals that are shown, and the finest that can be typed. */
  readonly digits = input(0);
  /** Shows all decimals, zeros too; else as few as say the number. */
  readonly fixed = input(false, { transform: booleanAttribute });

  /** Nothing is an answer too: the control then holds null without an error. */
  readonly optional = input(false, { transform: booleanAttribute });

  private readonly field = inject<ElementRef<HTMLInputElement>>(ElementRef).nativeElement;
  protected locked = false;
  /** Something was typed and is not taken yet. */
  protected typing = false;
  /** The last number that stood here rightly. */
  private held: number | null = null;
  private trouble: string | null = null;
  private changed: (value: number | null) => void = () => undefined;
  private touched: () => void = () => undefined;

  writeValue(value: number | null): void {
    this.held = value;
    this.trouble = null;
    this.typing = false;
    this.show(value);
  }

  registerOnChange(changed: (value: number | null) => void): void {
    this.changed = changed;
  }

  registerOnTouched(touched: () => void): void {
    this.touched = touched;
  }

  setDisabledState(disabled: boolean): void {
    this.locked = disabled;
    this.field.disabled = disabled;
  }

  validate(): ValidationErrors | null {
    return this.trouble === null ? null : { number: this.trouble };
  }

  protected take(): void {
    if (!this.typing) return;
    this.typing = false;
    if (this.optional() && this.field.value.trim() === '') {
      this.trouble = null;
      this.held = null;
      this.changed(null);
      return;
    }
    const value = numberOf(this.field.value);
    this.trouble = value === null ? 'a number, such as 2.5' : this.outside(value);
    if (value === null || this.trouble !== null) {
      this.changed(null);
      this.touched();
      return;
    }
    this.set(value);
  }

  /** Takes it; what is wrong stays in the field, with its reason, and nothing else comes of the key. */
  protected enter(event: Event): void {
    this.take();
    if (this.trouble !== null) event.stopPropagation();
  }

  protected leave(): void {
    this.take();
    this.touched();
  }

  protected giveUp(event: Event): void {
    if (!this.typing && this.trouble === null) return;
    event.preventDefault();
    event.stopPropagation();
    this.trouble = null;
    this.typing = false;
    this.show(this.held);
    this.changed(this.held);
  }

  protected step(event: KeyboardEvent): void {
    const direction = event.key === 'ArrowUp' ? 1 : event.key === 'ArrowDown' ? -1 : 0;
    if (direction === 0) return;
    event.preventDefault();
    event.stopPropagation();
    const from = this.typing ? numberOf(this.field.value) : this.held;
    if (from === null) return;
    const fine = 10 ** -this.digits();
    const plain = this.digits() === 0 ? 1 : fine * 10;
    const by = event.shiftKey ? plain * 10 : event.altKey ? fine : plain;
    this.typing = false;
    this.trouble = null;
    this.set(Math.min(this.most(), Math.max(this.least(), from + direction * by)));
  }

  private set(value: number): void {
    const rounded = Number(value.toFixed(this.digits()));
    this.show(rounded);
    if (rounded === this.held) {
      this.changed(this.held);
      return;
    }
    this.held = rounded;
    this.changed(rounded);
  }

  private show(value: number | null): void {
    const text = value === null ? '' : value.toFixed(this.digits());
    this.field.value = this.fixed() || value === null ? text : String(Number(text));
  }

  /** What a number outside the bounds must be; null for one inside. */
  private outside(value: number): string | null {
    const [least, most] = [this.least(), this.most()];
    if (value >= least && value <= most) return null;
    if (least === -Infinity) return `${most} at most`;
    return most === Infinity ? `${least} at least` : `${least} to ${most}`;
  }
}

/** The number that a text says, whatever unit follows it; null where it is none. */
function numberOf(text: string): number | null {
  const said = /^([+\-−]?(?:\d+[.,]?\d*|[.,]\d+))\s*[^\d\s.,:]*$/.exec(text.trim())?.[1];
  return said === undefined ? null : Number(said.replace(',', '.').replace('−', '-'));
}
