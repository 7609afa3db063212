import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, effect, inject, input, viewChild } from '@angular/core';
import type { Suggestion } from '@able-plumb/core';
import { JobKeeper } from '../../../keeper/job-keeper';
import { paint } from '../../../work/paint';
import { ThumbnailClient } from '../../../work/thumbnail-client';
import { BenchModel } from '../../bench-model';

/** Longer side of it, CSS px. */
const LONG_EDGE = 84;

/** A suggestion's result, small, with its crop. */
@Component({
  selector: 'ap-suggestion-picture',
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
      max-height: 60px;
    }
  `,
})
export class SuggestionPicture {
  private readonly keeper = inject(JobKeeper);
  private readonly thumbnails = inject(ThumbnailClient);
  private readonly id = inject(BenchModel).session.id;
  readonly suggestion = input.required<Suggestion>();
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');

  constructor() {
    effect((onCleanup) => {
      const [{ kind, correction }, canvas] = [this.suggestion(), this.canvas().nativeElement];
      const pictureId = `${this.id} ${kind}`;
      let gone = false;
      onCleanup(() => {
        gone = true;
        this.thumbnails.forget(pictureId);
      });
      const draw = async (): Promise<void> => {
        const thumbnail = await this.keeper.thumbnail(this.id);
        if (!thumbnail || gone) return;
        const longEdge = Math.round(LONG_EDGE * Math.min(2, window.devicePixelRatio));
        const pixels = await this.thumbnails.draw({ pictureId, thumbnail, correction, longEdge });
        if (pixels && !gone) paint(canvas, pixels);
      };
      // without a small picture its words remain
      draw().catch(() => undefined);
    });
  }
}
