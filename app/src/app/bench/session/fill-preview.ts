import { computed, effect, inject, Injectable, signal, untracked, type OnDestroy } from '@angular/core';
import { filledShare, type Correction, type Rect } from '@able-plumb/core';
import { FillClient } from '../../work/fill-client';
import { PictureSession } from './picture-session';
import { ShownPicture } from './shown-picture';

/** What filling makes of the crop on the stage. */
export interface FilledCrop {
  /** The document that it was made of, and the crop that was filled, plane px. */
  readonly of: Correction;
  readonly crop: Rect;
  readonly filled: string;
  readonly hatched: string;
}

/** Longer side of what is filled for the stage, px. */
const LONG_EDGE = 720;
/** After the last change; so long nothing else must be wanted, ms. */
const PAUSE_MS = 120;

/** Fills the crop that is shown, small, whenever something about it has settled. */
@Injectable()
export class FillPreview implements OnDestroy {
  private readonly session = inject(PictureSession);
  private readonly picture = inject(ShownPicture);
  private readonly client = inject(FillClient);

  readonly result = signal<FilledCrop | null>(null);
  /** The same as long as the picture lies as it did then: what is moved meanwhile would show something else beneath. */
  readonly fitting = computed(() => {
    const [result, correction] = [this.result(), this.session.correction()];
    const parts = ['stance', 'lens', 'ease', 'camera'] as const;
    return result && correction && parts.every((part) => result.of[part] === correction[part]) ? result : null;
  });
  /** Why nothing can be filled; empty where it can. */
  readonly trouble = signal('');
  readonly busy = signal(false);
  /** Whether what is filled is hatched, so that it can be told from the picture. */
  readonly hatched = signal(false);

  /** Share of the crop that is filled, 0..1. */
  readonly share = computed(() => {
    const shown = this.picture.shown();
    const asked = this.session.correction();
    return shown && asked ? filledShare(asked, shown.warp) : 0;
  });

  /** What is to be filled next; what waits gives way to what is wanted now. */
  private wanted: { readonly correction: Correction; readonly crop: Rect } | null = null;
  private filling = false;
  private timer: ReturnType<typeof setTimeout> | undefined;

  constructor() {
    effect(() => {
      const correction = this.session.correction();
      const shown = this.picture.shown();
      const ready = this.session.loading().state === 'ready' && !this.session.gestureActive();
      const asked = correction?.crop.edges === 'fill' && this.share() > 0;
      clearTimeout(this.timer);
      // whatever is being filled is the answer to something else by now
      this.wanted = null;
      if (!asked) untracked(() => this.clear());
      else if (ready && shown)
        this.timer = setTimeout(() => {
          this.wanted = { correction, crop: shown.warp.crop };
          void this.next();
        }, PAUSE_MS);
    });
  }

  private async next(): Promise<void> {
    if (this.filling) return;
    this.filling = true;
    this.busy.set(true);
    while (this.wanted) {
      const wanted = this.wanted;
      const answer = await this.client
        .preview(this.session.id, wanted.correction, wanted.crop, LONG_EDGE)
        .catch((error: unknown) => (error as Error).message);
      if (this.wanted !== wanted) continue;
      this.wanted = null;
      this.clear();
      if (typeof answer === 'string') this.trouble.set(answer);
      else if (answer?.filled && answer.hatched)
        this.result.set({
          of: wanted.correction,
          crop: wanted.crop,
          filled: URL.createObjectURL(answer.filled),
          hatched: URL.createObjectURL(answer.hatched),
        });
    }
    this.filling = false;
    this.busy.set(false);
  }

  private clear(): void {
    const before = this.result();
    if (before) for (const url of [before.filled, before.hatched]) URL.revokeObjectURL(url);
    this.result.set(null);
    this.trouble.set('');
  }

  ngOnDestroy(): void {
    this.wanted = null;
    clearTimeout(this.timer);
    this.clear();
  }
}
