import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { Cased } from '../kit/marks';
import { acrossStage } from '../kit/on-screen';
import { TOOL_CONTEXT } from '../tool-context';
import { guidesOnStage } from './guides-on-stage';

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
    const view = this.tool.view();
    return view ? guidesOnStage(this.tool).map(({ id, axis, at }) => ({ id, path: acrossStage(view, axis, at) })) : [];
  });
}
