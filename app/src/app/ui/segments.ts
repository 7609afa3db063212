import { ChangeDetectionStrategy, Component, input, output } from '@angular/core';

/** One choice of a {@link Segments} row. */
export interface Segment {
  readonly value: string;
  readonly label: string;
  readonly hint?: string;
}

/** A row of choices of which one holds: ink with a thick underline. Arrow keys move, as in a radio group. */
@Component({
  selector: 'ap-segments',
  changeDetection: ChangeDetectionStrategy.OnPush,
  host: { role: 'radiogroup', '[attr.aria-label]': 'label()' },
  template: `
    @for (option of options(); track option.value) {
      <button
        type="button"
        role="radio"
        [attr.aria-checked]="option.value === value()"
        [attr.tabindex]="option.value === value() ? 0 : -1"
        [attr.title]="option.hint ?? null"
        (click)="chosen.emit(option.value)"
        (keydown)="onKey($event, option.value)"
      >
        {{ option.label }}
      </button>
    }
  `,
  styles: `
    :host {
      display: flex;
      border: 1px solid var(--line);
      border-radius: 5px;
      background: var(--paper);
      overflow: hidden;
    }
    button {
      flex: 1 1 auto;
      min-height: 30px;
      padding: 3px 8px 4px;
      border: 0;
      border-left: 1px solid var(--line);
      border-bottom: 3px solid transparent;
      background: none;
      color: inherit;
      font: inherit;
      font-size: 13px;
      cursor: pointer;
      white-space: nowrap;
    }
    button:first-child {
      border-left: 0;
    }
    button:hover {
      background: var(--hover);
    }
    button[aria-checked='true'] {
      font-weight: 650;
      border-bottom-color: var(--ink);
    }
    button:focus-visible {
      outline-offset: -3px;
    }
  `,
})
export class Segments {
  readonly options = input.required<readonly Segment[]>();
  readonly value = input.required<string>();
  readonly label = input.required<string>();
  readonly chosen = output<string>();

  protected onKey(event: KeyboardEvent, value: string): void {
    const step =
      event.key === 'ArrowRight' || event.key === 'ArrowDown' ? 1 : event.key === 'ArrowLeft' || event.key === 'ArrowUp' ? -1 : 0;
    if (step === 0) return;
    event.preventDefault();
    event.stopPropagation();
    const options = this.options();
    const next = options[(options.findIndex((o) => o.value === value) + step + options.length) % options.length];
    if (!next) return;
    this.chosen.emit(next.value);
    const buttons = (event.currentTarget as HTMLElement).parentElement?.querySelectorAll('button');
    buttons?.[options.indexOf(next)]?.focus();
  }
}
