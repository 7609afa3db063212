import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { distanceMm, lengthText, planeScale } from '@able-plumb/core';
import { DraftLineMark } from '../kit/draft-line';
import { Cased, Tag } from '../kit/marks';
import { linePath } from '../kit/on-screen';
import { TOOL_CONTEXT } from '../tool-context';
import { lengthsOnStage } from './lengths-on-stage';

/** Measured lengths, and the one being drawn. */
@Component({
  selector: 'svg[ap-length-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased, DraftLineMark, Tag],
  template: `
    @for (line of lengths(); track line.id) {
      <svg:g class="measure">
        <svg:g ap-cased [d]="path(line)" />
        <svg:circle class="ring" [attr.cx]="line.a[0]" [attr.cy]="line.a[1]" r="6.5" />
        <svg:circle class="ring" [attr.cx]="line.b[0]" [attr.cy]="line.b[1]" r="6.5" />
        <svg:g ap-tag class="small" [at]="[line.middle[0], line.middle[1] - 16]" [words]="line.text" />
      </svg:g>
    }
    @if (words(); as w) {
      <svg:g class="measure" ap-draft-line [words]="w" />
    }
  `,
})
export class LengthMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  protected readonly path = linePath;
  protected readonly lengths = computed(() => lengthsOnStage(this.tool));

  protected readonly words = computed(() => {
    const [draft, shown] = [this.tool.drawing.line(), this.tool.shown()];
    if (!draft || !shown || this.tool.inHand() !== 'length') return null;
    const scale = planeScale(shown.correction, shown.warp);
    const mm = scale && distanceMm(shown.warp, scale, draft);
    return scale && mm !== null ? lengthText(mm, scale) : 'no scale yet';
  });
}
