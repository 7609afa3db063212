import { ChangeDetectionStrategy, Component, input } from '@angular/core';
import { MatIcon } from '@angular/material/icon';
import type { IconName } from '../theme/icons';

/** One of the icons of the sprite, by what it stands for; says nothing to a screen reader. */
@Component({
  selector: 'ap-icon',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [MatIcon],
  template: `<mat-icon [svgIcon]="name()" [style.width.px]="size()" [style.height.px]="size()" aria-hidden="true" />`,
  styles: `
    :host {
      display: inline-flex;
    }
  `,
})
export class Icon {
  readonly name = input.required<IconName>();
  readonly size = input(20);
}
