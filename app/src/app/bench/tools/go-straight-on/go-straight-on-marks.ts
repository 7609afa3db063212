import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { DraftLineMark } from '../kit/draft-line';
import { draftWords } from '../kit/draft-words';
import { TOOL_CONTEXT } from '../tool-context';

/** The line being drawn that goes straight on. */
@Component({
  selector: 'svg[ap-go-straight-on-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [DraftLineMark],
  template: `
    @if (words(); as w) {
      <svg:g class="panel" ap-draft-line [words]="w" />
    }
  `,
})
export class GoStraightOnMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  protected readonly words = computed(() => draftWords(this.tool, 'go-straight-on'));
}
