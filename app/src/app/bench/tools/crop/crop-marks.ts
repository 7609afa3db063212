import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { cropHandles, planeToScreen, screenRect, type Rect } from '@able-plumb/core';
import { PictureSession } from '../../session/picture-session';
import { Peg, Tag } from '../kit/marks';
import { TOOL_CONTEXT } from '../tool-context';

/** How far the lines of a crop go beyond its corners, px. */
const BEYOND_PX = 18;

/** The four sides of a crop, each a line of its own. */
function framePath({ x, y, width, height }: Rect): string {
  const [left, top, right, bottom] = [x - BEYOND_PX, y - BEYOND_PX, x + width + BEYOND_PX, y + height + BEYOND_PX];
  const across = [y, y + height].map((at) => `M${left} ${at}H${right}`);
  const down = [x, x + width].map((at) => `M${at} ${top}V${bottom}`);
  return [...across, ...down].join('');
}

/** The crop's frame; at its step with its handles and its size. */
@Component({
  selector: 'svg[ap-crop-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Peg, Tag],
  template: `
    @if (frame(); as f) {
      <svg:g class="crop" [class.open]="open()">
        <svg:path class="under" [attr.d]="f" />
        <svg:path class="over" [attr.d]="f" />
        @for (handle of handles(); track handle.part) {
          <svg:g ap-peg [at]="handle.at" [shape]="handle.shape" />
        }
      </svg:g>
    }
    @if (size(); as s) {
      <svg:g ap-tag [at]="s.at" [words]="s.words" />
    }
  `,
})
export class CropMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  private readonly session = inject(PictureSession);
  protected readonly open = computed(() => this.tool.step() === 'crop');

  private readonly rect = computed(() => {
    const [view, shown] = [this.tool.view(), this.tool.shown()];
    return view && shown && !this.tool.showsOriginal() && this.session.loading().state === 'ready'
      ? screenRect(view, shown.warp.crop)
      : null;
  });

  protected readonly frame = computed(() => {
    const rect = this.rect();
    return rect && (this.tool.marks() || this.open()) ? framePath(rect) : null;
  });

  protected readonly handles = computed(() => {
    const [view, shown] = [this.tool.view(), this.tool.shown()];
    if (!view || !shown || !this.open()) return [];
    return cropHandles(shown.warp.crop).map(({ part, at }) => ({
      part,
      at: planeToScreen(view, at),
      shape: part.length === 2 ? ('corner' as const) : part === 'n' || part === 's' ? ('across' as const) : ('down' as const),
    }));
  });

  protected readonly size = computed(() => {
    const [rect, shown] = [this.rect(), this.tool.shown()];
    if (!rect || !shown || !this.open()) return null;
    const { width, height } = shown.warp.outputSize;
    return { at: [rect.x + rect.width / 2, rect.y + rect.height - 26] as const, words: `${width} × ${height} px` };
  });
}
