import { afterNextRender, ChangeDetectionStrategy, Component, computed, inject, Injector, input, output, viewChild } from '@angular/core';
import { MatFormField } from '@angular/material/input';
import { MatOptgroup, MatOption, MatSelect } from '@angular/material/select';
import { FIELDS } from './fields';

/** One choice of a {@link SelectField}. */
export interface Choice {
  readonly value: string;
  readonly name: string;
  readonly disabled?: boolean;
  /** Choices of one group stand together under its name. */
  readonly group?: string;
}

/** One of several by name. */
@Component({
  selector: 'ap-select',
  changeDetection: ChangeDetectionStrategy.OnPush,
  providers: [FIELDS],
  imports: [MatFormField, MatOptgroup, MatOption, MatSelect],
  template: `
    <mat-form-field>
      <mat-select [value]="value()" [aria-label]="label()" (selectionChange)="choose($event.value)" panelWidth="" panelClass="choices">
        @for (group of groups(); track group.name) {
          @if (group.name) {
            <mat-optgroup [label]="group.name">
              @for (c of group.choices; track c.value) {
                <mat-option [value]="c.value" [disabled]="c.disabled ?? false">{{ c.name }}</mat-option>
              }
            </mat-optgroup>
          } @else {
            @for (c of group.choices; track c.value) {
              <mat-option [value]="c.value" [disabled]="c.disabled ?? false">{{ c.name }}</mat-option>
            }
          }
        }
      </mat-select>
    </mat-form-field>
  `,
  styles: `
    :host {
      display: block;
      min-width: 0;
    }
  `,
})
export class SelectField {
  readonly label = input.required<string>();
  readonly choices = input.required<readonly Choice[]>();
  readonly value = input.required<string>();
  readonly chosen = output<string>();
  private readonly select = viewChild.required(MatSelect);
  private readonly injector = inject(Injector);

  protected readonly groups = computed(() => {
    const names = [...new Set(this.choices().map((c) => c.group ?? ''))];
    return names.map((name) => ({ name, choices: this.choices().filter((c) => (c.group ?? '') === name) }));
  });

  protected choose(value: string): void {
    this.chosen.emit(value);
    // what was made of it may differ
    afterNextRender(() => (this.select().value = this.value()), { injector: this.injector });
  }
}
