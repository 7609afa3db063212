import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { DraftLineMark } from '../kit/draft-line';
import { draftWords } from '../kit/draft-words';
import { TOOL_CONTEXT } from '../tool-context';

/** The cut being drawn between two prints. */
@Component({
  selector: 'svg[ap-cut-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DraftLineMark],
  template: `
    @if (words(); as w) {
      <svg:g class="panel" ap-draft-line [words]="w" />
    }
  `,
})
export class CutMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  protected readonly words = computed(() => draftWords(this.tool, 'cut'));
}
