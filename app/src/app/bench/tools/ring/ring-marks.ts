import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { closedPath, rectCentre, ringOutline } from '@able-plumb/core';
import { Cased, Tag } from '../kit/marks';
import { TOOL_CONTEXT } from '../tool-context';
import { ringsOnStage } from './rings-on-stage';

/** Shape rings with what they read, and the one being drawn. */
@Component({
  selector: 'svg[ap-ring-marks]',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Cased, Tag],
  template: `
    @if (draft(); as path) {
      <svg:g class="shape" ap-cased [d]="path" />
    }
    @for (r of rings(); track r.id) {
      <svg:g class="shape" [class.selected]="selectedId() === r.id">
        <svg:g ap-cased [d]="r.path" />
        @for (h of r.small ? [] : r.handles; track h.handle) {
          <svg:circle class="ring" [class.held]="isHeld(r.id, h.handle)" [attr.cx]="h.at[0]" [attr.cy]="h.at[1]" r="5.5" />
        }
        <svg:g ap-tag class="small" [at]="[r.tag[0], r.tag[1] - 24]" [words]="r.words" />
      </svg:g>
    }
  `,
})
export class RingMarks {
  private readonly tool = inject(TOOL_CONTEXT);
  protected readonly selectedId = this.tool.selection.id;
  protected readonly rings = computed(() => ringsOnStage(this.tool));

  protected readonly draft = computed(() => {
    const [view, box] = [this.tool.view(), this.tool.drawing.box()];
    if (!view || !box || this.tool.inHand() !== 'ring') return null;
    const [x, y] = rectCentre(box);
    return closedPath(view, ringOutline({ centre: [x, y], right: [x + box.width / 2, y], top: [x, y - box.height / 2] }));
  });

  protected isHeld(id: string, part: string): boolean {
    const held = this.tool.selection.held();
    return held?.tool === 'ring' && held.id === id && held.part === part;
  }
}
