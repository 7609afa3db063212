import { afterNextRender, ChangeDetectionStrategy, Component, inject, Injector, input, output, viewChild } from '@angular/core';
import { MatButtonToggle, MatButtonToggleGroup } from '@angular/material/button-toggle';
import { MatTooltip } from '@angular/material/tooltip';

/** One choice of a {@link Segments} row. */
export interface Segment {
  readonly value: string;
  readonly label: string;
  readonly hint?: string;
}

/** A row of choices of which one holds: ink with a thick underline. */
@Component({
  selector: 'ap-segments',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatButtonToggle, MatButtonToggleGroup, MatTooltip],
  template: `
    <mat-button-toggle-group
      [class.rows]="across() > 0"
      [style.--across]="across()"
      [value]="value()"
      [attr.aria-label]="label()"
      hideSingleSelectionIndicator
      (change)="choose($event.value)"
    >
      @for (option of options(); track option.value) {
        <mat-button-toggle [value]="option.value" [matTooltip]="option.hint ?? ''">{{ option.label }}</mat-button-toggle>
      }
    </mat-button-toggle-group>
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
    mat-button-toggle-group {
      display: flex;
    }
    mat-button-toggle {
      flex: 1 1 auto;
    }
    .rows {
      display: grid;
      grid-template-columns: repeat(var(--across), 1fr);
      row-gap: 1px;
      background: var(--line);
    }
  `,
})
export class Segments {
  readonly options = input.required<readonly Segment[]>();
  readonly value = input.required<string>();
  readonly label = input.required<string>();
  /** How many stand side by side where there are several rows; 0 for one row. */
  readonly across = input(0);
  readonly chosen = output<string>();
  private readonly group = viewChild.required(MatButtonToggleGroup);
  private readonly injector = inject(Injector);

  protected choose(value: string): void {
    this.chosen.emit(value);
    // what was made of it may differ
    afterNextRender(() => (this.group().value = this.value()), { injector: this.injector });
  }
}
