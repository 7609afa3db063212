import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { guideLines } from '@able-plumb/core';
import { Cased } from '../kit/marks';
import { acrossStage } from '../kit/on-screen';
import { TOOL_CONTEXT } from '../tool-context';

/** Guides, right across the stage. */
@Component({
  selector: 'svg[ap-guide-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased],
  template: `
    @for (line of guides(); track line.id) {
      <svg:g class="guide" ap-cased [d]="line.path" />
    }
  `,
})
export class GuideMarks {
  private readonly tool = inject(TOOL_CONTEXT);

  protected readonly guides = computed(() => {
    const [view, document] = [this.tool.view(), this.tool.document()];
    if (!view || !document || !this.tool.marks() || this.tool.showsOriginal()) return [];
    return guideLines(view, document.guides).map(({ id, axis, at }) => ({ id, path: acrossStage(view, axis, at) }));
  });
}
