import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, effect, inject, input, viewChild } from '@angular/core';
import type { Correction } from '@able-plumb/core';
import { JobKeeper } from '../keeper/job-keeper';
import { paint } from '../work/paint';
import { ThumbnailClient } from '../work/thumbnail-client';
import { PictureSession } from './session/picture-session';

/** What a correction would make of the opened picture, small, with its crop; as high as `--highest` at most. */
@Component({
  selector: 'ap-small-result',
  changeDetection: ChangeDetectionStrategy.OnPush,
  template: '<canvas #canvas aria-hidden="true"></canvas>',
  styles: `
    :host {
      display: grid;
      place-items: center;
      min-width: 0;
      min-height: 0;
    }
    canvas {
      max-width: 100%;
      max-height: var(--highest, 60px);
    }
  `,
})
export class SmallResult {
  private readonly keeper = inject(JobKeeper);
  private readonly thumbnails = inject(ThumbnailClient);
  private readonly id = inject(PictureSession).id;
  /** What tells it from others of the same picture. */
  readonly of = input.required<string>();
  readonly correction = input.required<Correction>();
  /** Longer side of it, CSS px. */
  readonly longEdge = input(84);
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');

  constructor() {
    effect((onCleanup) => {
      const [correction, canvas, px] = [this.correction(), this.canvas().nativeElement, this.longEdge()];
      const pictureId = `${this.id} ${this.of()}`;
      let gone = false;
      onCleanup(() => {
        gone = true;
        this.thumbnails.forget(pictureId);
      });
      const draw = async (): Promise<void> => {
        const thumbnail = await this.keeper.thumbnail(this.id);
        if (!thumbnail || gone) return;
        const longEdge = Math.round(px * Math.min(2, window.devicePixelRatio));
        const pixels = await this.thumbnails.draw({ pictureId, original: this.id, thumbnail, correction, longEdge });
        if (pixels && !gone) paint(canvas, pixels);
      };
      // without a small picture its words remain
      draw().catch(() => undefined);
    });
  }
}
