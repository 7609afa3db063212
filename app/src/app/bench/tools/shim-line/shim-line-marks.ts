import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { DraftLineMark } from '../kit/draft-line';
import { draftWords } from '../kit/draft-words';
import { TOOL_CONTEXT } from '../tool-context';

/** The line being drawn in a shim. */
@Component({
  selector: 'svg[ap-shim-line-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DraftLineMark],
  template: `
    @if (words(); as w) {
      <svg:g class="panel" ap-draft-line [words]="w" />
    }
  `,
})
export class ShimLineMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  protected readonly words = computed(() => draftWords(this.tool, 'shim-line'));
}
