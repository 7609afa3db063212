import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, effect, inject, input, viewChild } from '@angular/core';
import type { Correction } from '@able-plumb/core';
import { JobKeeper } from '../../keeper/job-keeper';
import { paint } from '../../work/paint';
import { ThumbnailClient } from '../../work/thumbnail-client';
import { SheetDesk } from './sheet-desk';

/** Longer side of it, CSS px. */
const LONG_EDGE = 132;

/** A piece as its picture will be, small. */
@Component({
  selector: 'ap-piece-picture',
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
      max-height: 96px;
    }
  `,
})
export class PiecePicture {
  private readonly keeper = inject(JobKeeper);
  private readonly thumbnails = inject(ThumbnailClient);
  private readonly desk = inject(SheetDesk);
  readonly pieceId = input.required<string>();
  readonly correction = input.required<Correction>();
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');

  constructor() {
    effect((onCleanup) => {
      const [correction, canvas, id] = [this.correction(), this.canvas().nativeElement, this.desk.session.id];
      const pictureId = `${id} ${this.pieceId()}`;
      let gone = false;
      onCleanup(() => {
        gone = true;
        this.thumbnails.forget(pictureId);
      });
      const draw = async (): Promise<void> => {
        const thumbnail = await this.keeper.thumbnail(id);
        if (!thumbnail || gone) return;
        const longEdge = Math.round(LONG_EDGE * Math.min(2, window.devicePixelRatio));
        const pixels = await this.thumbnails.draw({ pictureId, original: id, thumbnail, correction, longEdge });
        if (pixels && !gone) paint(canvas, pixels);
      };
      // without a small picture its words remain
      draw().catch(() => undefined);
    });
  }
}
