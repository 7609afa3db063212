import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Cased, Tag } from '../kit/marks';
import { acrossStage } from '../kit/on-screen';
import { TOOL_CONTEXT } from '../tool-context';
import { boundariesOnStage } from './boundaries-on-stage';

/** Boundaries of edge easings, and the stretches over which they take effect. */
@Component({
  selector: 'svg[ap-edge-ease-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased, Tag],
  template: `
    @for (b of boundaries(); track b.id) {
      <svg:g class="boundary" [class.selected]="selectedId() === b.id">
        @if (b.room) {
          <svg:g class="room" ap-cased [d]="b.room" />
        }
        <svg:g class="reach" ap-cased [d]="b.reach" />
        <svg:g ap-cased [d]="b.across" />
        <svg:circle class="ring" [class.held]="heldId() === b.id" [attr.cx]="b.grip[0]" [attr.cy]="b.grip[1]" r="7" />
        <svg:g ap-tag class="small" [at]="[b.grip[0], b.grip[1] + 24]" [words]="b.words" />
      </svg:g>
    }
  `,
})
export class EdgeEaseMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  protected readonly selectedId = this.tool.selection.id;
  protected readonly boundaries = computed(() => {
    const view = this.tool.view();
    return view ? boundariesOnStage(this.tool).map((b) => ({ ...b, across: acrossStage(view, b.axis, b.at) })) : [];
  });
  protected readonly heldId = computed(() => {
    const held = this.tool.selection.held();
    return held?.tool === 'edge-ease' ? held.id : null;
  });
}
