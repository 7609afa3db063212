import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { marginHandles, planeToScreen, screenRect, withMargins } from '@able-plumb/core';
import { Cased, Peg } from '../kit/marks';
import { rectPath } from '../kit/on-screen';
import { TOOL_CONTEXT } from '../tool-context';
import { marginsOnPlane } from './margins-on-plane';

/** The panel's margins while the crop goes round it: their box, and where each side is taken hold of. */
@Component({
  selector: 'svg[ap-margin-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased, Peg],
  template: `
    @if (margins(); as m) {
      <svg:g class="margins">
        <svg:g ap-cased [d]="m.path" />
        @for (handle of m.handles; track handle.side) {
          <svg:g ap-peg [at]="handle.at" [shape]="handle.shape" />
        }
      </svg:g>
    }
  `,
})
export class MarginMarks {
  private readonly tool = inject(TOOL_CONTEXT);

  protected readonly margins = computed(() => {
    const [view, margins] = [this.tool.view(), marginsOnPlane(this.tool)];
    if (!view || !margins) return null;
    const rect = withMargins(margins.box, margins.margins);
    return {
      path: rectPath(screenRect(view, rect)),
      handles: marginHandles(rect).map(({ side, at }) => ({
        side,
        at: planeToScreen(view, at),
        shape: side === 'top' || side === 'bottom' ? ('across' as const) : ('down' as const),
      })),
    };
  });
}
