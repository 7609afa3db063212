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
    <mat-button-toggle-group [value]="value()" [attr.aria-label]="label()" hideSingleSelectionIndicator (change)="choose($event.value)">
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
  `,
})
export class Segments {
  readonly options = input.required<readonly Segment[]>();
  readonly value = input.required<string>();
  readonly label = input.required<string>();
  readonly chosen = output<string>();
  private readonly group = viewChild.required(MatButtonToggleGroup);
  private readonly injector = inject(Injector);

  protected choose(value: string): void {
    this.chosen.emit(value);
    // what was made of it may differ
    afterNextRender(() => (this.group().value = this.value()), { injector: this.injector });
  }
}
