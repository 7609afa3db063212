import type { ElementRef } from '@angular/core';
import { ChangeDetectionStrategy, Component, computed, effect, inject, input, signal, viewChild } from '@angular/core';
import { MatTooltip } from '@angular/material/tooltip';
import { JobKeeper } from '../keeper/job-keeper';
import { Icon } from '../ui/icon';
import { judge } from '../work/judge';
import { paint } from '../work/paint';
import { ThumbnailClient } from '../work/thumbnail-client';
import type { SheetPicture } from './sheet-model';

/** Longer side of a small result, CSS px. */
const LONG_EDGE = 212;

/** One picture on the contact sheet: its result, fitted; its name, how its lines lean before and after, and what it is linked with. */
@Component({
  selector: 'ap-sheet-cell',
  changeDetection: ChangeDetectionStrategy.OnPush,
  imports: [Icon, MatTooltip],
  template: `
    <span class="tick" aria-hidden="true">
      @if (item().selected) {
        <ap-icon name="tick" [size]="15" />
      }
    </span>
    <span class="picture">
      <canvas #canvas [class.empty]="!drawn()" [class.lower]="item().said"></canvas>
      @if (trouble()) {
        <small>{{ trouble() }}</small>
      }
    </span>
    <b dir="auto" [matTooltip]="item().picture.name">{{ item().picture.name }}</b>
    <span class="line" [class.attention]="judged()?.state === 'attention'" [matTooltip]="judged()?.line ?? ''">
      {{ judged()?.line ?? '' }}
    </span>
    @if (item().said; as said) {
      <span [class]="'said ' + said.state" [matTooltip]="said.words + (said.evidence ? '; ' + said.evidence : '')">
        @if (said.state === 'sure' || said.state === 'likely') {
          <ap-icon name="found" [size]="14" />
        }
        {{ said.words }}
      </span>
    }
    @if (item().linked > 0) {
      <span class="linked" [matTooltip]="'One correction for ' + item().linked + ' pictures'">
        <ap-icon name="linked" [size]="15" /> {{ item().linked }}
      </span>
    }
  `,
  styleUrl: './sheet-cell.scss',
})
export class SheetCell {
  private readonly keeper = inject(JobKeeper);
  private readonly thumbnails = inject(ThumbnailClient);
  readonly item = input.required<SheetPicture>();
  private readonly canvas = viewChild.required<ElementRef<HTMLCanvasElement>>('canvas');
  protected readonly drawn = signal(false);
  protected readonly trouble = signal('');
  private readonly pictureId = computed(() => this.item().picture.id);
  private readonly original = computed(() => this.item().picture.original);
  private readonly correction = computed(() => this.item().correction);

  protected readonly judged = computed(() => {
    const correction = this.correction();
    return correction && judge(correction);
  });

  constructor() {
    effect((onCleanup) => {
      // not the item, which is another one whenever anything of the job changes
      const [pictureId, original, correction] = [this.pictureId(), this.original(), this.correction()];
      const canvas = this.canvas().nativeElement;
      let gone = false;
      onCleanup(() => {
        gone = true;
        this.thumbnails.forget(pictureId);
      });
      if (!correction) return;
      const draw = async (): Promise<void> => {
        const thumbnail = await this.keeper.thumbnail(pictureId);
        if (gone) return;
        if (!thumbnail) throw new Error('no small picture');
        const density = Math.min(2, window.devicePixelRatio);
        const pixels = await this.thumbnails.draw({
          pictureId,
          original,
          thumbnail,
          correction,
          longEdge: Math.round(LONG_EDGE * density),
        });
        if (!pixels || gone) return;
        canvas.style.aspectRatio = `${pixels.width} / ${pixels.height}`;
        paint(canvas, pixels);
        this.drawn.set(true);
        this.trouble.set('');
      };
      draw().catch((error: unknown) => this.trouble.set((error as Error).message));
    });
  }
}
