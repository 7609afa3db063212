import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { degreesText } from '@able-plumb/core';
import { DraftLineMark } from '../kit/draft-line';
import { Cased } from '../kit/marks';
import { lineOnScreen, linePath } from '../kit/on-screen';
import { TOOL_CONTEXT } from '../tool-context';

/** Sides of the panel that is being marked. */
@Component({
  selector: 'svg[ap-sides-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased, DraftLineMark],
  template: `
    @for (path of placed(); track $index) {
      <svg:g class="panel" ap-cased [d]="path" />
    }
    @if (words(); as w) {
      <svg:g class="panel" ap-draft-line [words]="w" />
    }
  `,
})
export class SidesMarks {
  private readonly tool = inject(TOOL_CONTEXT);

  protected readonly placed = computed(() =>
    this.tool.drawing.lines().flatMap(([p, q]) => {
      const line = lineOnScreen(this.tool, p, q);
      return line ? [linePath(line)] : [];
    }),
  );

  protected readonly words = computed(() => {
    const draft = this.tool.inHand() === 'sides' ? this.tool.drawing.line() : null;
    return draft && `panel edge ${this.tool.drawing.lines().length + 1} of 4, ${degreesText(draft.angleDeg)}`;
  });
}
