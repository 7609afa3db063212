import { ChangeDetectionStrategy, Component, computed, inject } from '@angular/core';
import { MatButton } from '@angular/material/button';
import { MatTooltip } from '@angular/material/tooltip';
import { cutBoxes, waysToKeep, withoutKeepBox, type WayToKeep } from '@able-plumb/core';
import { Icon } from '../../../ui/icon';
import { Hand } from '../../session/hand';
import { PictureSession } from '../../session/picture-session';
import { ShownPicture } from '../../session/shown-picture';
import { StageView } from '../../session/stage-view';
import { Tip } from '../../../keys/tip';
import { ToolBox } from '../../tool-box';

/** Keep boxes: what no crop may cut, and the ways out with their figures where one would. */
@Component({
  selector: 'ap-crop-keep',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatButton, MatTooltip, Tip],
  template: `
    <h3>
      Keep boxes
      <button
        type="button"
        matButton
        [attr.aria-pressed]="drawing()"
        apTip="Drag a box over what must stay in the picture"
        tipKey="keep-box"
        (click)="draw()"
      >
        {{ drawing() ? 'Done' : 'Draw one' }}
      </button>
    </h3>
    @for (box of boxes(); track box.id; let i = $index) {
      <div class="row keep-row">
        <span>{{ i + 1 }}</span>
        <span>{{ box.width.toFixed(0) }} × {{ box.height.toFixed(0) }} px</span>
        <button type="button" matButton (click)="remove(box.id)" [attr.aria-label]="'Remove keep box ' + (i + 1)" matTooltip="Remove">
          <ap-icon name="remove" [size]="13" />
        </button>
      </div>
    }
    @if (cut() > 0) {
      <p class="note trouble" role="alert">
        {{ cut() === 1 ? 'The crop cuts a keep box.' : 'The crop cuts ' + cut() + ' keep boxes.' }}
        {{ ways().length > 0 ? 'Ways out:' : '' }}
      </p>
      <div class="ways-out">
        @for (way of ways(); track way.kind) {
          <button type="button" matButton="outlined" (click)="take(way)">{{ inWords(way) }}</button>
        }
      </div>
    }
  `,
  styleUrl: './crop.scss',
  host: { class: 'part' },
})
export class CropKeep {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  private readonly hand = inject(Hand);
  protected readonly box = inject(ToolBox);
  private readonly stageView = inject(StageView);
  protected readonly boxes = computed(() => this.session.correction()?.crop.keep ?? []);
  protected readonly drawing = computed(() => this.hand.tool() === 'keep-box');

  /** Judged by what was asked for: where that cannot be had at all, every box counts as cut. */
  protected readonly cut = computed(() => {
    const shown = this.picture.shown();
    const asked = this.session.correction();
    if (!shown || !asked || asked.crop.keep.length === 0) return 0;
    return shown.trouble ? asked.crop.keep.length : cutBoxes(asked, shown.warp, shown.warp.crop);
  });
  protected readonly ways = computed(() => {
    const committed = this.session.committed();
    return committed && this.cut() > 0 && !this.session.gestureActive() ? waysToKeep(committed) : [];
  });

  protected inWords({ kind, kept, strength }: WayToKeep): string {
    const share = `keeps ${(kept * 100).toFixed(0)} %`;
    switch (kind) {
      case 'around-keep':
        return `Crop around the boxes, ${share}`;
      case 'hold-back':
        return `Hold back to ${(strength * 100).toFixed(0)} % and it fits, ${share}`;
      case 'keep-edges':
        return `Keep the empty edges, ${share}`;
    }
  }

  protected take(way: WayToKeep): void {
    this.session.commit(() => way.correction);
    this.stageView.fit();
  }

  protected draw(): void {
    this.box.toggle('keep-box');
  }

  protected remove(id: string): void {
    this.session.commit((c) => withoutKeepBox(c, id));
  }
}
