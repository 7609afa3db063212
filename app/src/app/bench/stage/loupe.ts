import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, viewChild } from '@angular/core';
import { paint } from '../../work/paint';
import { StageClient } from '../../work/stage-client';
import { BenchSwitches } from '../session/bench-switches';
import { Hand } from '../session/hand';
import { PictureSession } from '../session/picture-session';
import { ShownPicture } from '../session/shown-picture';
import { StageView } from '../session/stage-view';
import { LOUPE_PX, loupePlace } from './loupe-place';

const LOUPE_TIMES = 8;

/** The picture around the place where something is set, enlarged. */
@Component({
  selector: 'ap-loupe',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: `
    @if (place(); as p) {
      <div class="loupe" [style.left.px]="p.left" [style.top.px]="p.top" aria-hidden="true">
        <canvas #canvas [attr.width]="size" [attr.height]="size"></canvas>
        <svg viewBox="-84 -84 168 168">
          <path class="under" d="M-76 0h68M8 0h68M0-76v68M0 8v68" />
          <path class="over" d="M-76 0h68M8 0h68M0-76v68M0 8v68" />
        </svg>
        <span>{{ times }}×</span>
      </div>
    }
  `,
  styles: `
    .loupe {
      position: absolute;
      width: 168px;
      height: 168px;
      border-radius: 50%;
      overflow: hidden;
      border: 2px solid #14181b;
      box-shadow: 0 2px 10px rgb(0 0 0 / 35%);
      background: var(--stage-grey);
      pointer-events: none;
    }
    canvas,
    svg {
      position: absolute;
      inset: 0;
      width: 100%;
      height: 100%;
    }
    span {
      position: absolute;
      left: 50%;
      bottom: 8px;
      translate: -50%;
      padding: 0 6px;
      border-radius: 3px;
      background: rgb(20 24 27 / 85%);
      color: #fff;
      font-size: 12px;
    }
    .under {
      stroke: #14181b;
      stroke-width: 3;
    }
    .over {
      stroke: #fff;
      stroke-width: 1.2;
    }
  `,
})
export class Loupe {
  private readonly session = inject(PictureSession);
  private readonly hand = inject(Hand);
  private readonly stageView = inject(StageView);
  private readonly switches = inject(BenchSwitches);
  private readonly picture = inject(ShownPicture);
  private readonly pictures = inject(StageClient);
  private readonly canvas = viewChild<ElementRef<HTMLCanvasElement>>('canvas');
  protected readonly size = LOUPE_PX;
  protected readonly times = LOUPE_TIMES;
  /** It stays clear of the hand. */
  readonly byFinger = input.required<boolean>();

  protected readonly place = computed(() => {
    const [loupe, view] = [this.hand.loupe(), this.stageView.view()];
    return loupe && view && loupePlace(loupe.screen, view.stage, this.byFinger());
  });

  constructor() {
    effect(() => {
      const loupe = this.hand.loupe();
      const view = this.stageView.view();
      const correction = this.picture.stageCorrection();
      const picture = this.session.picture();
      const target = this.canvas()?.nativeElement;
      if (!loupe || !view || !correction || !picture || !target) return;
      const close = { ...view, stage: { width: LOUPE_PX, height: LOUPE_PX }, centre: loupe.at, scale: LOUPE_TIMES };
      const request = { pictureId: picture.id, correction, view: close, density: 1, sharp: true, workLight: this.switches.workLight() };
      void this.pictures.preview('loupe', request).then((pixels) => {
        if (pixels) paint(target, pixels);
      });
    });
  }
}
