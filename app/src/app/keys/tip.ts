import { Directive, effect, inject, input } from '@angular/core';
import { MatTooltip } from '@angular/material/tooltip';
import { KeyTable } from './key-table';
import type { KeyAction } from './key-rows';

/** A tooltip that names the key which does the same. */
@Directive({ selector: '[apTip]', hostDirectives: [{ directive: MatTooltip, inputs: ['matTooltipPosition', 'matTooltipShowDelay'] }] })
export class Tip {
  readonly apTip = input.required<string>();
  readonly tipKey = input<KeyAction | null>(null);

  constructor() {
    const tooltip = inject(MatTooltip);
    const keys = inject(KeyTable);
    effect(() => {
      const action = this.tipKey();
      const shown = action === null ? '' : keys.shown(action);
      tooltip.message = shown ? `${this.apTip()} (${shown})` : this.apTip();
    });
  }
}
