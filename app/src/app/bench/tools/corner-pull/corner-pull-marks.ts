import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { planeToScreen, pullHandles } from '@able-plumb/core';
import { TOOL_CONTEXT } from '../tool-context';
import { pulledCorners } from './pulled-corners';

/** Handles of the corner pull: round at the corners, lozenges on the sides. */
@Component({
  selector: 'svg[ap-corner-pull-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @for (handle of handles(); track handle.id) {
      @if (handle.corners.length === 1) {
        <svg:circle class="peg" [attr.cx]="handle.at[0]" [attr.cy]="handle.at[1]" r="7" />
      } @else {
        <svg:rect
          class="peg"
          x="-6"
          y="-6"
          width="12"
          height="12"
          [attr.transform]="'translate(' + handle.at[0] + ' ' + handle.at[1] + ') rotate(45)'"
        />
      }
    }
  `,
})
export class CornerPullMarks {
  private readonly tool = inject(TOOL_CONTEXT);

  protected readonly handles = computed(() => {
    const [view, corners] = [this.tool.view(), pulledCorners(this.tool)];
    return view && corners ? pullHandles(corners).map((handle) => ({ ...handle, at: planeToScreen(view, handle.at) })) : [];
  });
}
