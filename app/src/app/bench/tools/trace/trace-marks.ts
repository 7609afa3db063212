import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { BeadsMarks } from '../kit/beads-marks';
import { Cased } from '../kit/marks';
import { TOOL_CONTEXT } from '../tool-context';
import { tracesOnStage } from './trace-handles';

/** Traced edges with their beads and numbers, and the one being traced. */
@Component({
  selector: 'svg[ap-trace-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [BeadsMarks, Cased],
  template: `
    @for (edge of traces(); track edge.id) {
      <svg:g class="trace" [class.selected]="edge.selected" [class.disagrees]="edge.disagrees">
        <svg:g ap-cased [d]="edge.path" />
        @for (at of edge.beads; track $index) {
          <svg:rect
            class="bead"
            [class.held]="isHeld(edge.id, $index)"
            [attr.x]="at[0] - 3.5"
            [attr.y]="at[1] - 3.5"
            width="7"
            height="7"
          />
        }
        <svg:g class="number" [attr.transform]="'translate(' + edge.badge[0] + ' ' + edge.badge[1] + ')'">
          <svg:circle r="9.5" />
          <svg:text y="3.8" text-anchor="middle">{{ edge.number }}</svg:text>
        </svg:g>
      </svg:g>
    }
    @if (inHand()) {
      <svg:g ap-beads-marks />
    }
  `,
})
export class TraceMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  protected readonly traces = computed(() => tracesOnStage(this.tool));
  protected readonly inHand = computed(() => this.tool.inHand() === 'trace');

  protected isHeld(id: string, index: number): boolean {
    const held = this.tool.selection.held();
    return held?.tool === 'trace' && held.id === id && held.part === index;
  }
}
