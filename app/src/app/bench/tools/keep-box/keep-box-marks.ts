import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { keepBoxesOnPlane, screenRect } from '@able-plumb/core';
import { Cased } from '../kit/marks';
import { rectPath } from '../kit/on-screen';
import { TOOL_CONTEXT } from '../tool-context';

/** Keep boxes as the result shows them, at Crop; and the one being drawn. */
@Component({
  selector: 'svg[ap-keep-box-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased],
  template: `
    @for (k of boxes(); track k.label) {
      <svg:g class="keep-box">
        <svg:g ap-cased [d]="k.path" />
        <svg:text [attr.x]="k.rect.x + 6" [attr.y]="k.rect.y + k.rect.height - 6">{{ k.label }}</svg:text>
      </svg:g>
    }
  `,
})
export class KeepBoxMarks {
  private readonly tool = inject(TOOL_CONTEXT);

  protected readonly boxes = computed(() => {
    const [view, shown] = [this.tool.view(), this.tool.shown()];
    if (!view || !shown || this.tool.step() !== 'crop' || this.tool.showsOriginal()) return [];
    const draft = this.tool.inHand() === 'keep-box' ? this.tool.drawing.box() : null;
    const kept = keepBoxesOnPlane(shown.correction, shown.warp).map((box, i) => ({ label: `keep ${i + 1}`, box }));
    return [...kept, ...(draft ? [{ label: 'keep', box: draft }] : [])].map(({ label, box }) => {
      const rect = screenRect(view, box);
      return { label, rect, path: rectPath(rect) };
    });
  });
}
