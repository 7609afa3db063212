import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { BeadsMarks } from '../kit/beads-marks';
import { TOOL_CONTEXT } from '../tool-context';

/** The edge being traced in a shim. */
@Component({
  selector: 'svg[ap-shim-trace-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [BeadsMarks],
  template: `
    @if (inHand()) {
      <svg:g ap-beads-marks />
    }
  `,
})
export class ShimTraceMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  protected readonly inHand = computed(() => this.tool.inHand() === 'shim-trace');
}
