import { ChangeDetectionStrategy, Component, inject, input } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { Tip } from '../keys/tip';
import { Icon } from '../ui/icon';
import { ToolBox } from './tool-box';
import type { ToolDefinition } from './tools/tool';

/** Takes a tool, or lays it down. */
@Component({
  selector: 'ap-tool-button',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, Tip],
  template: `
    <button
      type="button"
      matButton="outlined"
      [attr.aria-pressed]="box.inHand() === tool().id"
      [apTip]="tool().tip ?? tool().name"
      [tipKey]="tool().key?.action ?? null"
      (click)="box.toggle(tool().id)"
    >
      @if (tool().icon; as icon) {
        <ap-icon [name]="icon" />
      }
      {{ tool().name }}
    </button>
  `,
  styles: `
    :host {
      display: contents;
    }
  `,
})
export class ToolButton {
  protected readonly box = inject(ToolBox);
  readonly tool = input.required<ToolDefinition>();
}
